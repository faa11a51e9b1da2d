import { messageOf } from "./messageOf";

/** How it stands with something that is kept on the server. */
export type KeptState =
  /** The server has it as it stands here. */
  | "kept"
  /** Changed; it is sent after a short pause. */
  | "waiting"
  /** On its way; what is changed meanwhile is sent next. */
  | "sending"
  /** It could not be sent; it is tried again. */
  | "failed"
  /** The server does not take it; it is tried again when it is changed. */
  | "refused"
  /** Somebody else has changed the very same; nothing is sent until that is decided. */
  | "conflict"
  /** Somebody else has deleted it; nothing is sent until it is there again. */
  | "gone";

/** What an error says of a thing that was to be kept. */
export type Trouble = Extract<KeptState, "failed" | "refused" | "conflict" | "gone">;

export type Choices = Record<string, "theirs" | "mine">;

/** What is new, and what it is new against. */
export interface Sending<T> {
  part: Partial<T>;
  /** What parts were changed from, where that is not what is there. */
  base: Partial<T>;
  /** What is there as far as is known, in this version. */
  there: T;
  version: number;
  /** What has been decided of what others have changed too. */
  choices: Choices;
  /** What the wish is called: one that is sent again is known by it. */
  request: string;
  /** Earlier wishes of which it is not known whether they have come. */
  own: string[];
}

/** What is there. */
export interface There<T> {
  value: T;
  version: number;
  /** Since when. */
  at: string;
}

/** The place where something is kept. */
export interface Keeper<T> {
  /** Brings what is new there, where others may have changed it too; with `leaving` the request outlives the page. */
  send: (wish: Sending<T>, leaving: boolean) => Promise<There<T>>;
  troubleOf: (error: unknown) => Trouble;
}

const PAUSE_MS = 250;
const AGAIN_MS = 2_000;

/**
 * Something that is changed here and kept on the server. Every change is sent after a short pause, one request at a
 * time, and only what is new; what cannot be sent is held and tried again. What others change there meanwhile is
 * brought together with it there: so each request says from what it goes out.
 */
export class Kept<T extends object> {
  state: KeptState = "kept";
  /** Why it is not kept, until it is. */
  message: string | undefined;
  /** When it was kept last. */
  at: string | undefined;
  /** What the server has answered where something is to be decided. */
  trouble: unknown;
  /** What has been changed that no request carries yet. */
  private readonly changed = new Set<keyof T>();
  private there: T;
  /** What changed parts were changed from, where that is not what is there. */
  private bases: Partial<T> = {};
  /** What is on its way, or was sent without an answer: it is sent again as it was before anything else is. */
  private sent: Sending<T> | undefined;
  private choices: Choices = {};
  private timer: ReturnType<typeof setTimeout> | undefined;
  private gone = false;
  private held = false;

  constructor(
    public value: T,
    public version: number,
    private readonly keeper: Keeper<T>,
    /** Called whenever anything of it has changed. */
    private readonly tell: () => void,
    /** Called when what others have changed stands here too. */
    private readonly others: (before: T, after: T) => void = () => undefined,
  ) {
    this.there = value;
  }

  /** Takes over what the server has, if that is newer, where nothing was changed here. */
  meet(value: T, version: number): void {
    if (version <= this.version || this.sent || this.held || stands(this.state)) return;
    this.takeOver({ value, version, at: this.at ?? "" });
    if (this.state === "waiting" && this.changed.size === 0) this.state = "kept";
  }

  /** Sends nothing while something of it is set there; what is changed here meanwhile wins over that. */
  async during(about: (keyof T)[], work: () => Promise<There<T> | undefined>): Promise<void> {
    this.held = true;
    try {
      const there = await work();
      if (there) this.takeOver(there, picked(there.value, about));
    } finally {
      this.held = false;
      if (this.state === "waiting") this.sendIn(0);
      this.tell();
    }
  }

  /** Changes parts of it; `from` is what they were changed from, if others may have changed them since. */
  change(part: Partial<T>, from: Partial<T> = {}): void {
    for (const key of Object.keys(part) as (keyof T)[]) {
      const passed = key in from && !this.changed.has(key) && !isSame(from[key], this.value[key]);
      if (passed) this.bases[key] = from[key];
      this.changed.add(key);
    }
    this.value = { ...this.value, ...part };
    if (this.state === "kept") this.state = "waiting";
    if (this.state !== "sending" && !stands(this.state)) this.sendIn(PAUSE_MS);
    this.tell();
  }

  /** Sends at once what is waiting. */
  async send(leaving = false): Promise<void> {
    if (leaving) {
      this.leave();
      return;
    }
    const wish = this.sent ?? this.wish();
    if (this.held || this.state === "sending" || stands(this.state) || !wish) return;
    clearTimeout(this.timer);
    for (const key of Object.keys(wish.part) as (keyof T)[])
      if (isSame(this.value[key], wish.part[key])) this.changed.delete(key);
    this.sent = wish;
    this.state = "sending";
    this.tell();
    try {
      this.arrived(await this.keeper.send(wish, false));
    } catch (error) {
      this.missed(error);
    }
    this.tell();
  }

  /** Decides what others have changed too, and sends it. */
  decide(choices: Choices): void {
    if (this.state !== "conflict") return;
    this.choices = { ...this.choices, ...choices };
    this.goOn();
  }

  /** Sends what was held back, now that what stood in its way is gone. */
  goOn(): void {
    this.state = "waiting";
    this.message = undefined;
    this.sendIn(0);
    this.tell();
  }

  /** All that is new here, as it would be sent. */
  wish(): Sending<T> | undefined {
    if (this.changed.size === 0) return undefined;
    const keys = [...this.changed];
    return {
      part: picked(this.value, keys),
      base: picked(
        this.bases,
        keys.filter((key) => key in this.bases),
      ),
      there: this.there,
      version: this.version,
      choices: this.choices,
      request: crypto.randomUUID(),
      own: [],
    };
  }

  /** Sends nothing more of it. */
  letGo(): void {
    clearTimeout(this.timer);
    this.gone = true;
  }

  /** Sends all that may not be there yet, with what is on its way, for there is no time to wait for that. */
  private leave(): void {
    const { sent } = this;
    const wish = this.wish() ?? sent;
    if (this.held || stands(this.state) || !wish) return;
    const parts = { part: { ...sent?.part, ...wish.part }, base: { ...wish.base, ...sent?.base } };
    void this.keeper
      .send({ ...wish, ...parts, own: sent ? [sent.request] : [] }, true)
      .catch(() => undefined);
  }

  private arrived(there: There<T>): void {
    this.takeOver(there, this.sent?.part);
    this.sent = undefined;
    this.choices = {};
    this.message = undefined;
    this.state = this.changed.size > 0 ? "waiting" : "kept";
    if (this.state === "waiting") this.sendIn(0);
  }

  /**
   * What is there is what stands here too, apart from what has been changed here since; that goes out from what is
   * known to have been written from here, or else from what was there before.
   */
  private takeOver({ value, version, at }: There<T>, written: Partial<T> = {}): void {
    const bases: Partial<T> = {};
    for (const key of this.changed) {
      const from = [written, this.bases, this.there].find((one) => key in one)?.[key];
      if (isSame(this.value[key], value[key])) this.changed.delete(key);
      else if (!isSame(from, value[key])) bases[key] = from;
    }
    this.bases = bases;
    const before = this.value;
    this.there = sameParts(before, sameParts(written, value));
    this.value = { ...this.there, ...picked(before, [...this.changed]) };
    this.version = version;
    this.at = at;
    if (!isSame(before, this.value)) this.others(before, this.value);
  }

  private missed(error: unknown): void {
    this.trouble = error;
    this.message = messageOf(error, "It could not be kept.");
    this.state = this.keeper.troubleOf(error);
    if (this.state === "failed") {
      this.sendIn(AGAIN_MS);
      return;
    }
    for (const key of Object.keys(this.sent?.part ?? {}) as (keyof T)[]) this.changed.add(key);
    this.sent = undefined;
  }

  private sendIn(pause: number): void {
    clearTimeout(this.timer);
    if (!this.gone) this.timer = setTimeout(() => void this.send(), pause);
  }
}

/** Whether nothing is sent until somebody has decided something. */
const stands = (state: KeptState): boolean => state === "conflict" || state === "gone";

const picked = <T extends object>(from: Partial<T>, keys: (keyof T)[]): Partial<T> =>
  Object.fromEntries(keys.map((key) => [key, from[key]])) as Partial<T>;

/** A value with those parts of an earlier one that are the same, so that they are seen to be. */
const sameParts = <T extends object>(earlier: Partial<T>, now: T): T =>
  Object.fromEntries(
    (Object.keys(now) as (keyof T)[]).map((key) => [
      key,
      key in earlier && isSame(earlier[key], now[key]) ? earlier[key] : now[key],
    ]),
  ) as T;

const isSame = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);
