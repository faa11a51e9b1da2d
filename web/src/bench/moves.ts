import { createStore, type StoreApi } from "zustand/vanilla";

import type { Edit, Patch, Phrase, Value } from "../api/client";
import { withSetting } from "../api/changes";
import type { Played, StepHistory } from "./history";
import { messageOf } from "../api/messageOf";

/** What edits make of a patch, worked out by the server, and what they were about. */
export type Worker = (patch: Patch, edits: Edit[]) => Promise<{ patch: Patch; touched: string[] }>;

/** Those for whom something is changed. */
export interface Listener {
  /** Without it nothing can be changed. */
  onChange?: ((played: Played, before: Played) => void) | undefined;
  /** Told of every move that is not yet in what `onChange` was given. */
  onWork?: ((move: Promise<unknown>) => void) | undefined;
}

export interface MovesState {
  /** Whether a move is still being worked out. */
  working: boolean;
  failure: string | undefined;
}

/**
 * The moves at the bench. What changes the wiring is worked out by the server, one move after the other; values of
 * settings and the phrase are set at once. All of it can be undone.
 */
export class Moves {
  readonly state: StoreApi<MovesState> = createStore<MovesState>(() => ({
    working: false,
    failure: undefined,
  }));
  private listener: Listener = {};
  private line: Promise<void> = Promise.resolve();
  private waiting = 0;

  constructor(
    readonly history: StepHistory,
    private latest: Played,
    private readonly work: Worker,
  ) {}

  listen(listener: Listener): void {
    this.listener = listener;
  }

  /** Takes note of what is shown, unless a move is on its way that it does not have. */
  meet(played: Played): void {
    if (this.waiting > 0) return;
    this.latest = played;
    this.history.meet(played);
  }

  /** Makes moves, one after the other; returns what they were about, or undefined if they could not be made. */
  apply = (edits: Edit[]): Promise<string[] | undefined> =>
    this.inTurn(async () => {
      const { patch, touched } = await this.work(this.latest.patch, edits);
      this.change({ patch });
      return touched;
    });

  /** Sets a value at once, as it is dragged. */
  set = (module: string, setting: string, value: Value): void =>
    this.changeInTurn(
      () => ({ patch: withSetting(this.latest.patch, module, setting, value) }),
      `${module}.${setting}`,
    );

  /** Puts another patch in the place of this one. */
  open = (patch: Patch): void => this.changeInTurn(() => ({ patch }));

  /** Sets the phrase at once; changes of one kind in quick succession are one. */
  play = (phrase: Phrase, kind?: string): void => this.changeInTurn(() => ({ phrase }), kind);

  undo = (): void =>
    void this.inTurn(async () => {
      const earlier = await this.history.undo();
      if (earlier) this.show(earlier);
    });

  redo = (): void =>
    void this.inTurn(async () => {
      const later = await this.history.redo();
      if (later) this.show(later);
    });

  dismiss = (): void => this.state.setState({ failure: undefined });

  private show(changed: Played): void {
    const before = this.latest;
    this.latest = changed;
    this.listener.onChange?.(changed, before);
  }

  private change(part: Partial<Played>, kind?: string): void {
    const changed = { ...this.latest, ...part };
    this.history.note(changed, kind);
    this.show(changed);
  }

  /** Changes at once, or behind the moves that are still being worked out. */
  private changeInTurn(part: () => Partial<Played>, kind?: string): void {
    if (this.waiting === 0) this.change(part(), kind);
    else
      void this.inTurn(() => {
        this.change(part(), kind);
        return Promise.resolve();
      });
  }

  /** Lets a move wait until those before it are made. */
  private inTurn<T>(move: () => Promise<T>): Promise<T | undefined> {
    this.waiting++;
    this.state.setState({ working: true });
    const done = this.line.then(move).catch((error: unknown) => {
      this.state.setState({ failure: messageOf(error) });
      return undefined;
    });
    this.line = done.then(() => {
      this.waiting--;
      this.state.setState({ working: this.waiting > 0 });
    });
    this.listener.onWork?.(done);
    return done;
  }
}
