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

/** The place where something is kept. */
export interface Keeper<T> {
  send: (wish: Sending<T>) => Promise<{ version: number; at: string }>;
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
  private timer: ReturnType<typeof setTimeout> | undefined;
  private gone = false;

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

  change(part: Partial<T>): void {
    this.value = { ...this.value, ...part };
    for (const key of Object.keys(part) as (keyof T)[]) this.changed.add(key);
    if (this.state === "kept") this.state = "waiting";
    if (this.state !== "sending" && this.state !== "conflict") this.sendIn(PAUSE_MS);
    this.tell();
  }

  /** Sends at once what is waiting. */
  async send(leaving = false): Promise<void> {
    const busy = this.state === "sending" && !leaving;
    if (busy || this.state === "conflict" || this.changed.size === 0) return;
    clearTimeout(this.timer);
    const keys = [...this.changed];
    this.changed.clear();
    this.state = "sending";
    this.tell();
    try {
      const part = Object.fromEntries(keys.map((key) => [key, this.value[key]])) as Partial<T>;
      const { there, version } = this;
      const answer = await this.keeper.send({ part, there, version, leaving });
      this.there = { ...there, ...part };
      this.arrived(answer);
    } catch (error) {
      keys.forEach((key) => this.changed.add(key));
      this.missed(error);
    }
    this.tell();
  }

  /** Sends nothing more of it. */
  letGo(): void {
    clearTimeout(this.timer);
    this.gone = true;
  }

  private arrived({ version, at }: { version: number; at: string }): void {
    this.version = version;
    this.at = at;
    this.message = undefined;
    this.state = this.changed.size > 0 ? "waiting" : "kept";
    if (this.state === "waiting") this.sendIn(0);
  }

  private missed(error: unknown): void {
    this.message = messageOf(error, "It could not be kept.");
    this.state = this.keeper.troubleOf(error);
    if (this.state === "failed") this.sendIn(AGAIN_MS);
  }

  private sendIn(pause: number): void {
    clearTimeout(this.timer);
    if (!this.gone) this.timer = setTimeout(() => void this.send(), pause);
  }
}
