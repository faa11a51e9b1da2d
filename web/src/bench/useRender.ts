import { type RefObject, useEffect, useRef, useState } from "react";

import {
  ApiError,
  type Behind,
  client,
  got,
  type LensWish,
  type Listening,
  type Moment,
  type Patch,
  type Phrase,
  type Render,
  type RenderWish,
} from "../api/client";
import { useLate } from "../ui/useLate";
import { prefetchSound } from "./sounds";
import { takes } from "./takes";
import { useLatest } from "./useLatest";

interface Wish {
  patch: Patch;
  phrase: Phrase;
  lenses: LensWish[];
  moment: Moment | null;
  listening: Listening;
  behind: Behind | null;
}

const AS_WRITTEN: Listening = { muted: [], solo: [], bypassed: [] };

/** A render shorter than this is let be when something else is wished meanwhile: it is done before it is stopped. */
const WORTH_STOPPING_MS = 400;
const LOOK_EVERY_MS = 250;

const stopRender = (ticket: string) =>
  client.DELETE("/api/renders/progress/{ticket}", { params: { path: { ticket } } });

/** Asks for a render, by what the server has rendered before if it can be; whole if that is forgotten there. */
async function askRender(wish: Wish, ticket: string): Promise<Render> {
  const { patch, phrase, behind, lenses, moment, listening } = wish;
  const post = (body: RenderWish) => got(client.POST("/api/renders", { body }));
  const whole: RenderWish = { patch, phrase, behind, lenses, moment, listening, ticket };
  const done = await post(takes.brief(whole)).catch((error: unknown) => {
    if (!(error instanceof ApiError) || error.status !== 404) throw error;
    takes.forget();
    return post(whole);
  });
  if (listening === AS_WRITTEN) takes.note({ patch, phrase, key: done.key });
  return done;
}

/** The render of a patch with what lenses show of it; undefined until the first answer, then always the latest. */
export function useRender(
  patch: Patch | undefined,
  phrase: Phrase | undefined,
  lenses: LensWish[],
  listening: Listening = AS_WRITTEN,
  behind?: Behind,
  moment: Moment | null = null,
  paused = false,
) {
  const ticket = useRef<string>(undefined);

  const ask = async (wish: Wish): Promise<Render> => {
    const mine = crypto.randomUUID();
    ticket.current = mine;
    const done = await askRender(wish, mine);
    prefetchSound(done.key);
    return done;
  };

  const abandon = () => {
    const theirs = ticket.current;
    setTimeout(
      () => theirs !== undefined && theirs === ticket.current && stopRender(theirs),
      WORTH_STOPPING_MS,
    );
  };

  const latest = useLatest(
    "render",
    patch && phrase ? { patch, phrase, lenses, moment, listening, behind: behind ?? null } : undefined,
    ask,
    abandon,
    paused,
  );
  const part = useProgress(ticket, useLate(latest.behind && latest.error === null, WORTH_STOPPING_MS));
  const stop = () => ticket.current !== undefined && void stopRender(ticket.current);
  return { ...latest, part, stop };
}

/** How much of a render that takes long is done, 0 to 1. */
function useProgress(ticket: RefObject<string | undefined>, watching: boolean): number | undefined {
  const [part, setPart] = useState<number>();
  useEffect(() => {
    if (!watching) return undefined;
    const look = async () => {
      if (ticket.current === undefined) return;
      const path = { ticket: ticket.current };
      const { data } = await client.GET("/api/renders/progress/{ticket}", { params: { path } });
      setPart(data?.part ?? undefined);
    };
    const timer = setInterval(() => void look().catch(() => undefined), LOOK_EVERY_MS);
    return () => {
      clearInterval(timer);
      setPart(undefined);
    };
  }, [ticket, watching]);
  return part;
}
