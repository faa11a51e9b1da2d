import { useEffect, useRef, useState } from "react";

import { client, got, type Hint, type Near, type Patch } from "../api/client";
import { messageOf } from "../api/messageOf";
import { refreshStandings } from "./attempts";

const SHOW_PAUSE_MS = 900;

export interface NearProps {
  lessonId: string;
  stepId: string;
  patch: Patch;
  /** Says that what comes next is shown. */
  onShown: () => void;
  /** Puts another patch in the place of the learner's. */
  onPatch: (patch: Patch) => void;
  /** Lets a module be seen. */
  onLook: (module: string) => void;
  /** Puts a question about something to the educator. */
  onAsk: (place: string) => void;
}

/** Which help with what remains is given: where to look, what to do. */
export type Help = "where" | "what";

/** How near one is, as it was told last; and what remains, done before one's eyes. */
export function useNear({ lessonId, stepId, patch, onShown, onPatch, onLook }: NearProps) {
  const [asked, setAsked] = useState<{ near: Near; patch: Patch }>();
  const [doing, setDoing] = useState<"asking" | "showing">();
  const [failure, setFailure] = useState<string>();
  const [help, setHelp] = useState<Help>();
  const shown = useRef(false);
  const live = useLive();
  const params = { path: { lesson_id: lessonId, step_id: stepId } };

  const tell = async (about: Patch) => {
    const body = { patch: about, shown: shown.current };
    const near = await got(client.POST("/api/practice/{lesson_id}/steps/{step_id}/near", { params, body }));
    if (!live.current) return;
    setAsked({ near, patch: about });
    setHelp(undefined);
    void refreshStandings(lessonId);
  };
  const during = async (what: "asking" | "showing", work: () => Promise<void>) => {
    setDoing(what);
    setFailure(undefined);
    try {
      await work();
    } catch (error) {
      setFailure(messageOf(error));
    }
    setDoing(undefined);
  };
  /** Does what remains before one's eyes, one thing after the other. */
  const show = (hints: Hint[]) =>
    during("showing", async () => {
      let here = patch;
      shown.current = true;
      for (const [number, { edits, module }] of hints.entries()) {
        if (number > 0) await new Promise((resolve) => setTimeout(resolve, SHOW_PAUSE_MS));
        if (!live.current) return;
        here = (await got(client.POST("/api/patches/edits", { body: { patch: here, edits } }))).patch;
        onShown();
        onPatch(here);
        if (here.modules.some((one) => one.id === module)) onLook(module);
      }
      await tell(here);
    });
  return {
    near: asked?.near,
    /** Whether it was told before the patch was changed last. */
    old: asked !== undefined && asked.patch !== patch,
    doing,
    failure,
    help,
    setHelp,
    ask: () => during("asking", () => tell(patch)),
    show,
  };
}

/** Whether what asks is still on the page. */
function useLive() {
  const live = useRef(true);
  useEffect(() => {
    live.current = true;
    return () => {
      live.current = false;
    };
  }, []);
  return live;
}
