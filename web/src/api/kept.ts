import { messageOf } from "../ui/messageOf";

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
  /** Somebody else has changed it; nothing is sent until that is decided. */
  | "conflict";

/** What an error says of a thing that was to be kept. */
export type Trouble = Extract<KeptState, "failed" | "refused" | "conflict">;

/** What is new, and what it is new against. */
export interface Sending<T> {
  part: Partial<T>;
  /** What is kept there, in this version. */
  there: T;
  version: number;
  /** Lets the request outlive the page. */
  leaving: boolean;
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
  send: (wish: Sending<T>) => Promise<There<T>>;
  /** What is there now. */
  look: () => Promise<There<T>>;
  troubleOf: (error: unknown) => Trouble;
}

const PAUSE_MS = 250;
const AGAIN_MS = 2_000;

/**
 * Something that is changed here and kept on the server. Every change is sent after a short pause, one request at a
 * time, and only what is new; what cannot be sent is held and tried again.
 */
export class Kept<T extends object> {
  state: KeptState = "kept";
  /** Why it is not kept, until it is. */
  message: string | undefined;
  /** When it was kept last. */
  at: string | undefined;
  /** What has been changed that no request carries yet. */
  private readonly changed = new Set<keyof T>();
  private there: T;
  /** What was sent without an answer, and may be there all the same. */
  private unanswered: { part: Partial<T>; version: number }[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;
  private gone = false;
  private held = false;

  constructor(
    public value: T,
    public version: number,
    private readonly keeper: Keeper<T>,
    /** Called whenever anything of it has changed. */
    private readonly tell: () => void,
  ) {
    this.there = value;
  }

  /** Takes over what the server has, if that is newer and nothing was changed here. */
  meet(value: T, version: number): void {
    if (this.state !== "kept" || version <= this.version) return;
    this.value = value;
    this.there = value;
    this.version = version;
  }

  /** Sends nothing while something else is done to it there; then goes on from what has come of it. */
  async during(work: () => Promise<There<T> | undefined>): Promise<void> {
    this.held = true;
    try {
      const there = await work();
      if (there) this.takeOver(there);
    } finally {
      this.held = false;
      if (this.state === "waiting") this.sendIn(0);
      this.tell();
    }
  }

  change(part: Partial<T>): void {
    this.value = { ...this.value, ...part };
    for (const key of Object.keys(part) as (keyof T)[]) this.changed.add(key);
    if (this.state === "kept") this.state = "waiting";
    if (this.state !== "sending" && this.state !== "conflict") this.sendIn(PAUSE_MS);
    this.tell();
  }

  /** Sends at once what is waiting. */
  async send(leaving = false): Promise<void> {
    const busy = this.held || (this.state === "sending" && !leaving);
    if (busy || this.state === "conflict" || this.changed.size === 0) return;
    clearTimeout(this.timer);
    const keys = [...this.changed];
    this.changed.clear();
    this.state = "sending";
    this.tell();
    const part = Object.fromEntries(keys.map((key) => [key, this.value[key]])) as Partial<T>;
    try {
      const { there, version } = this;
      this.arrived(await this.keeper.send({ part, there, version, leaving }));
    } catch (error) {
      keys.forEach((key) => this.changed.add(key));
      await this.missed(error, part);
    }
    this.tell();
  }

  /** Sends nothing more of it. */
  letGo(): void {
    clearTimeout(this.timer);
    this.gone = true;
  }

  private arrived(there: There<T>): void {
    this.takeOver(there);
    this.unanswered = [];
    this.message = undefined;
    this.state = this.changed.size > 0 ? "waiting" : "kept";
    if (this.state === "waiting") this.sendIn(0);
  }

  /** What is there is what stands here too, apart from what has been changed here since. */
  private takeOver({ value, version, at }: There<T>): void {
    for (const key of this.changed) if (isSame(this.value[key], value[key])) this.changed.delete(key);
    const changed = Object.fromEntries([...this.changed].map((key) => [key, this.value[key]]));
    this.there = sameParts(this.value, value);
    this.value = { ...this.there, ...changed };
    this.version = version;
    this.at = at;
  }

  private async missed(error: unknown, part: Partial<T>): Promise<void> {
    const trouble = this.keeper.troubleOf(error);
    if (trouble === "failed") this.unanswered.push({ part, version: this.version });
    const there = trouble === "conflict" && this.unanswered.length > 0 && (await this.lookThere());
    if (there && this.isOurs(there)) {
      this.arrived(there);
      return;
    }
    this.message = messageOf(error, "It could not be kept.");
    this.state = there === undefined ? "failed" : trouble;
    if (this.state === "failed") this.sendIn(AGAIN_MS);
  }

  private lookThere = (): Promise<There<T> | undefined> => this.keeper.look().catch(() => undefined);

  /** Whether what is there was sent from here, and only the answer to it did not come. */
  private isOurs({ value, version }: There<T>): boolean {
    return this.unanswered.some(
      (one) =>
        one.version + 1 === version &&
        (Object.keys(one.part) as (keyof T)[]).every((key) => isSame(one.part[key], value[key])),
    );
  }

  private sendIn(pause: number): void {
    clearTimeout(this.timer);
    if (!this.gone) this.timer = setTimeout(() => void this.send(), pause);
  }
}

/** A value with those parts of an earlier one that are the same, so that they are seen to be. */
const sameParts = <T extends object>(earlier: T, now: T): T =>
  Object.fromEntries(
    (Object.keys(now) as (keyof T)[]).map((key) => [
      key,
      isSame(earlier[key], now[key]) ? earlier[key] : now[key],
    ]),
  ) as T;

const isSame = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);
