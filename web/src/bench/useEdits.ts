import { useEffect, useRef, useState, useSyncExternalStore } from "react";

import { client, type Edit, got, type Patch, type Value } from "../api/client";
import { withSetting } from "../api/patch";
import { historyOf } from "./history";

export interface Edits {
  /** Makes moves, one after the other; what they were about, or undefined if they could not be made. */
  apply: (edits: Edit[]) => Promise<string[] | undefined>;
  /** Sets a value at once, as it is dragged. */
  set: (module: string, setting: string, value: Value) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
  /** How many changes of this session can be taken back. */
  steps: number;
  failure: string | undefined;
  dismiss: () => void;
}

/**
 * The moves at the bench. What changes the wiring is worked out by the server, one move after the other; values of
 * settings are set at once. All of it can be undone.
 */
export function useEdits(
  stepId: string,
  patch: Patch,
  onChange: ((patch: Patch) => void) | undefined,
): Edits {
  const latest = useRef(patch);
  const line = useRef(Promise.resolve());
  const waiting = useRef(0);
  const [failure, setFailure] = useState<string>();
  const history = historyOf(stepId, patch);
  const canUndo = useSyncExternalStore(history.subscribe, history.canUndo);
  const steps = useSyncExternalStore(history.subscribe, history.steps);
  const canRedo = useSyncExternalStore(history.subscribe, history.canRedo);

  useEffect(() => {
    if (waiting.current > 0) return;
    latest.current = patch;
    history.meet(patch);
  }, [history, patch]);

  const show = (changed: Patch) => {
    latest.current = changed;
    onChange?.(changed);
  };

  /** Lets a move wait until those before it are made. */
  const inTurn = <T>(move: () => Promise<T>): Promise<T | undefined> => {
    waiting.current++;
    const done = line.current.then(move).catch((error: unknown) => {
      setFailure(error instanceof Error ? error.message : "That did not work.");
      return undefined;
    });
    line.current = done.then(() => {
      waiting.current--;
    });
    return done;
  };

  const change = (changed: Patch, kind?: string) => {
    history.note(changed, kind);
    show(changed);
  };

  const apply = (edits: Edit[]) =>
    inTurn(async () => {
      const done = await got(client.POST("/api/patches/edits", { body: { patch: latest.current, edits } }));
      change(done.patch);
      return done.touched;
    });

  const set = (module: string, setting: string, value: Value) => {
    const now = () => change(withSetting(latest.current, module, setting, value), `${module}.${setting}`);
    if (waiting.current === 0) now();
    else
      void inTurn(() => {
        now();
        return Promise.resolve();
      });
  };

  const undo = () =>
    void inTurn(async () => {
      const earlier = await history.undo();
      if (earlier) show(earlier);
    });

  const redo = () =>
    void inTurn(() => {
      const later = history.redo();
      if (later) show(later);
      return Promise.resolve();
    });

  return { apply, set, undo, redo, canUndo, canRedo, steps, failure, dismiss: () => setFailure(undefined) };
}
