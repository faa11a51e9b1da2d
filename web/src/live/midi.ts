import { createStore, type StoreApi } from "zustand/vanilla";

import type { Live } from "./live";

/** Something that sends MIDI messages, as bytes (MIDI 1.0 Detailed Specification, 1995). */
export interface Input {
  id: string;
  name: string;
  /** Begins to listen; returns how to end it. */
  open: (hear: (bytes: readonly number[]) => void) => () => void;
}

const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;
const CONTROL = 0xb0;
const BEND = 0xe0;
const CLOCK = 0xf8;
const START = 0xfa;
const CONTINUE = 0xfb;
const STOP = 0xfc;
const WHEEL = 1;
const PEDAL = 64;
const ALL_OFF = [120, 123];

const BEATS_SAID = new Map<number, "tick" | "start" | "continue" | "stop">([
  [CLOCK, "tick"],
  [START, "start"],
  [CONTINUE, "continue"],
  [STOP, "stop"],
]);

const LEARNT = "inner-tone-learnt";

type Learnt = Record<string, string>;

/** Which lever each controller moves, as this browser has learnt it. */
const learntBefore = (): Learnt => {
  try {
    return JSON.parse(localStorage.getItem(LEARNT) ?? "{}") as Learnt;
  } catch {
    return {};
  }
};

/** Turns messages into what is played: keys, wheel, bend, pedal, the beat, and controllers that levers have learnt. */
export class Hearing {
  private pedal = false;
  private readonly waiting = new Set<number>();
  /** Which lever each controller moves, and which one is to learn its controller. */
  readonly state: StoreApi<{ learnt: Learnt; learning: string | undefined }>;

  constructor(private readonly live: Live) {
    this.state = createStore(() => ({ learnt: learntBefore(), learning: undefined }));
  }

  /** Lets a lever be moved by the controller that moves next. */
  learn = (control: string): void => this.state.setState({ learning: control });

  private keep(controller: number, control: string): void {
    const others = Object.entries(this.state.getState().learnt).filter(([, one]) => one !== control);
    const learnt = { ...Object.fromEntries(others), [controller]: control };
    localStorage.setItem(LEARNT, JSON.stringify(learnt));
    this.state.setState({ learnt, learning: undefined });
  }

  hear = ([status = 0, first = 0, second = 0]: readonly number[]): void => {
    if (status >= CLOCK) {
      this.beat(status);
      return;
    }
    const kind = status & 0xf0;
    if (kind === NOTE_ON && second > 0) {
      this.waiting.delete(first);
      this.live.press(first, second / 127);
    } else if (kind === NOTE_OFF || kind === NOTE_ON) this.release(first);
    else if (kind === CONTROL) this.control(first, second);
    else if (kind === BEND) this.live.move("bend", bendOf(first + 128 * second));
  };

  private beat(status: number): void {
    const said = BEATS_SAID.get(status);
    if (said) this.live.beat(said);
  }

  private release(pitch: number): void {
    if (this.pedal) this.waiting.add(pitch);
    else this.live.release(pitch);
  }

  private control(controller: number, value: number): void {
    if (controller === PEDAL) this.press(value >= 64);
    else if (ALL_OFF.includes(controller)) this.live.silence();
    else if (controller === WHEEL) this.live.move("wheel", value / 127);
    else {
      const { learning, learnt } = this.state.getState();
      if (learning !== undefined) this.keep(controller, learning);
      const lever = learning ?? learnt[controller];
      if (lever !== undefined) this.live.move(lever, value / 127);
    }
  }

  /** The pedal holds the keys that are let go, until it comes up. */
  private press(down: boolean): void {
    this.pedal = down;
    if (down) return;
    this.waiting.forEach((pitch) => this.live.release(pitch));
    this.waiting.clear();
  }
}

/** The middle is exactly none, and both ends are reached. */
const bendOf = (value: number): number => (value < 8192 ? (value - 8192) / 8192 : (value - 8192) / 8191);

const TEMPO = 110;
const BEATS = 8;
const TICK_MS = 60_000 / TEMPO / 24;
/** What the simulated keyboard does, by the tick of its clock: a tune, the wheel, the bend, and a controller. */
export const SCRIPT: ReadonlyMap<number, number[][]> = scripted();
export const SCRIPTED_CONTROLLER = 74;

function scripted(): Map<number, number[][]> {
  const script = new Map<number, number[][]>();
  const add = (tick: number, message: number[]) => script.set(tick, [...(script.get(tick) ?? []), message]);
  [45, 52, 57, 60, 57, 52, 48, 55].forEach((pitch, beat) => {
    add(24 * beat, [NOTE_ON, pitch, 70 + 6 * beat]);
    add(24 * beat + 20, [NOTE_OFF, pitch, 0]);
  });
  for (let n = 0; n <= 32; n++) {
    add(48 + n, [CONTROL, WHEEL, Math.round(127 * Math.sin((Math.PI * n) / 32))]);
    add(96 + n, [CONTROL, 74, Math.round(64 - 63 * Math.cos((2 * Math.PI * n) / 32))]);
  }
  for (let n = 0; n <= 12; n++) {
    const bend = Math.round(8192 - 4096 * Math.sin((Math.PI * n) / 12));
    add(150 + n, [BEND, bend & 127, bend >> 7]);
  }
  return script;
}

/** A keyboard that needs none: with its script, people and tests without one go the same way as all others. */
export const SIMULATED: Input = {
  id: "simulated",
  name: "Simulated keyboard",
  open: (hear) => {
    let tick = 0;
    const begun = performance.now();
    hear([START]);
    const timer = setInterval(() => {
      while (performance.now() - begun >= tick * TICK_MS) {
        hear([CLOCK]);
        SCRIPT.get(tick % (24 * BEATS))?.forEach(hear);
        tick++;
      }
    }, 4);
    return () => {
      clearInterval(timer);
      for (const [, messages] of SCRIPT)
        for (const [status, pitch] of messages) if (status === NOTE_ON) hear([NOTE_OFF, pitch ?? 0, 0]);
      hear([BEND, 0, 64]);
      hear([STOP]);
      hear([CONTINUE]);
    };
  },
};

/** Everything that can be listened to; asks the browser for real devices, which may be refused. */
export async function inputs(): Promise<{ found: Input[]; text: string | undefined }> {
  if (!("requestMIDIAccess" in navigator))
    return { found: [SIMULATED], text: "This browser lets no MIDI devices play." };
  try {
    const access = await navigator.requestMIDIAccess();
    return { found: [...[...access.inputs.values()].map(real), SIMULATED], text: undefined };
  } catch {
    return { found: [SIMULATED], text: "The browser was not allowed to use MIDI devices." };
  }
}

const real = (device: MIDIInput): Input => ({
  id: device.id,
  name: device.name ?? "A MIDI device",
  open: (hear) => {
    const listen = ({ data }: MIDIMessageEvent) => data && hear([...data]);
    device.addEventListener("midimessage", listen);
    return () => {
      device.removeEventListener("midimessage", listen);
      void device.close();
    };
  },
});
