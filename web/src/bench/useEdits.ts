import { useEffect, useRef, useState, useSyncExternalStore } from "react";

import { client, type Edit, got, type Patch, type Phrase, type Value } from "../api/client";
import { withSetting } from "../api/patch";
import { historyOf, type Played } from "./history";

export interface Edits {
  /** Makes moves, one after the other; what they were about, or undefined if they could not be made. */
  apply: (edits: Edit[]) => Promise<string[] | undefined>;
  /** Sets a value at once, as it is dragged. */
  set: (module: string, setting: string, value: Value) => void;
  /** Sets the phrase at once; changes of one kind in quick succession are one. */
  play: (phrase: Phrase, kind?: string) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
  /** How many changes of this session can be taken back. */
  steps: number;
  /** Whether a move is still being worked out. */
  working: boolean;
  failure: string | undefined;
  dismiss: () => void;
}

/**
 * The moves at the bench. What changes the wiring is worked out by the server, one move after the other; values of
 * settings and the phrase are set at once. All of it can be undone.
 */
export function useEdits(
  stepId: string,
  patch: Patch,
  phrase: Phrase,
  onChange: ((played: Played) => void) | undefined,
  /** Told of every move that is not yet in what `onChange` was given. */
  onWork: ((move: Promise<unknown>) => void) | undefined,
): Edits {
  const latest = useRef<Played>({ patch, phrase });
  const line = useRef(Promise.resolve());
  const waiting = useRef(0);
  const [working, setWorking] = useState(false);
  const [failure, setFailure] = useState<string>();
  const history = historyOf(stepId, { patch, phrase });
  const canUndo = useSyncExternalStore(history.subscribe, history.canUndo);
  const steps = useSyncExternalStore(history.subscribe, history.steps);
  const canRedo = useSyncExternalStore(history.subscribe, history.canRedo);

  useEffect(() => {
    if (waiting.current > 0) return;
    latest.current = { patch, phrase };
    history.meet(latest.current);
  }, [history, patch, phrase]);

  const show = (changed: Played) => {
    latest.current = changed;
    onChange?.(changed);
  };

  /** Lets a move wait until those before it are made. */
  const inTurn = <T>(move: () => Promise<T>): Promise<T | undefined> => {
    waiting.current++;
    setWorking(true);
    const done = line.current.then(move).catch((error: unknown) => {
      setFailure(error instanceof Error ? error.message : "That did not work.");
      return undefined;
    });
    line.current = done.then(() => {
      waiting.current--;
      setWorking(waiting.current > 0);
    });
    onWork?.(done);
    return done;
  };

  const change = (part: Partial<Played>, kind?: string) => {
    const changed = { ...latest.current, ...part };
    history.note(changed, kind);
    show(changed);
  };

  /** Changes at once, or behind the moves that are still being worked out. */
  const changeInTurn = (part: () => Partial<Played>, kind?: string) => {
    if (waiting.current === 0) change(part(), kind);
    else
      void inTurn(() => {
        change(part(), kind);
        return Promise.resolve();
      });
  };

  const apply = (edits: Edit[]) =>
    inTurn(async () => {
      const body = { patch: latest.current.patch, edits };
      const done = await got(client.POST("/api/patches/edits", { body }));
      change({ patch: done.patch });
      return done.touched;
    });

  const set = (module: string, setting: string, value: Value) =>
    changeInTurn(
      () => ({ patch: withSetting(latest.current.patch, module, setting, value) }),
      `${module}.${setting}`,
    );

  const play = (played: Phrase, kind?: string) => changeInTurn(() => ({ phrase: played }), kind);

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

  return {
    apply,
    set,
    play,
    undo,
    redo,
    canUndo,
    canRedo,
    steps,
    working,
    failure,
    dismiss: () => setFailure(undefined),
  };
}
