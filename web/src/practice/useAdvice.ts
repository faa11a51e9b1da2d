import { useEffect, useRef, useState } from "react";

import { type Advice, client } from "../api/client";
import { messageOf } from "../api/messageOf";

const LOOK_EVERY_MS = 300;

export type Searching = ReturnType<typeof useAdvice>;

/** The search for what to turn: it takes seconds, tells how far it is, and can be stopped. */
export function useAdvice(search: (ticket: string) => Promise<Advice[]>) {
  const [found, setFound] = useState<Advice[]>();
  const [failure, setFailure] = useState<string>();
  const [part, setPart] = useState<number>();
  const [ticket, setTicket] = useState<string>();
  const latest = useRef<string>(undefined);
  useEffect(() => {
    if (ticket === undefined) return undefined;
    const path = { ticket };
    const timer = setInterval(() => {
      client.GET("/api/renders/progress/{ticket}", { params: { path } }).then(
        ({ data }) => setPart(data?.part ?? undefined),
        () => undefined,
      );
    }, LOOK_EVERY_MS);
    return () => clearInterval(timer);
  }, [ticket]);
  const end = () => {
    latest.current = undefined;
    setTicket(undefined);
    setPart(undefined);
  };
  const stop = () => {
    const path = { ticket: latest.current ?? "" };
    if (path.ticket) void client.DELETE("/api/renders/progress/{ticket}", { params: { path } });
    end();
  };
  const ask = async () => {
    const mine = crypto.randomUUID();
    latest.current = mine;
    setTicket(mine);
    setFound(undefined);
    setFailure(undefined);
    try {
      const answer = await search(mine);
      if (latest.current === mine) setFound(answer);
    } catch (error) {
      if (latest.current === mine) setFailure(messageOf(error));
    }
    if (latest.current === mine) end();
  };
  const drop = () => {
    if (latest.current !== undefined) stop();
    setFound(undefined);
    setFailure(undefined);
  };
  return { busy: ticket !== undefined, part, found, failure, ask, stop, drop };
}
