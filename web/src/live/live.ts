import { createStore, type StoreApi } from "zustand/vanilla";

import { type Chart, pageTokenNow, type Measure, type Patch, type Phrase } from "../api/client";
import { settingsSince } from "../api/changes";
import { messageOf } from "../api/messageOf";
import type { FromLine, ToLine } from "./line.worker";
import { type LiveScene, type LiveState, type Performing, type Standing, START } from "./states";
import outputAddress from "./output.worklet.ts?worker&url";

const RATE = 48_000;
const PATIENCE_MS = 400;

/** What the output tells. */
interface Noticed {
  heard?: number;
  played?: number;
  gaps?: number;
  ahead?: number;
  loudest?: number;
}

/** A bench that is played: what goes to the server, and what comes from it. */
export class Live {
  readonly state: StoreApi<LiveState> = createStore<LiveState>(() => START);
  private context: AudioContext | undefined;
  private gain: GainNode | undefined;
  private line: Worker | undefined;
  private scene: LiveScene | undefined;
  private level = 0.64;
  private serial = 0;
  private taps: number[] = [];
  /** When settings were sent, by serial: for how soon they are seen. */
  private readonly sent = new Map<number, number>();
  private struck: number | undefined;

  /** Begins to play; needs a press of a key or the mouse, without which browsers let nothing sound. */
  async start(scene: LiveScene): Promise<void> {
    if (this.state.getState().phase === "on" || this.state.getState().phase === "starting") return;
    this.close();
    this.scene = scene;
    this.put({ ...START, phase: "starting" });
    try {
      const context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
      this.context = context;
      void context.resume();
      await context.audioWorklet.addModule(outputAddress);
      if (!(await runs(context))) {
        this.close();
        this.put({
          phase: "blocked",
          text: "The browser does not let anything sound yet. Press “Play live” once more.",
        });
        return;
      }
      this.connect(context);
    } catch (error) {
      this.close();
      this.put({ phase: "over", text: messageOf(error) });
    }
  }

  private connect(context: AudioContext): void {
    const output = new AudioWorkletNode(context, "live-output", {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
    this.gain = context.createGain();
    this.gain.gain.value = this.level;
    output.connect(this.gain).connect(context.destination);
    const { port1, port2 } = new MessageChannel();
    output.port.postMessage({ source: port1 }, [port1]);
    output.port.onmessage = ({ data }: MessageEvent<Noticed>) => this.notice(data);
    this.line = new Worker(new URL("./line.worker.ts", import.meta.url), { type: "module" });
    this.line.onmessage = ({ data }: MessageEvent<FromLine>) => this.hear(data);
    const address = new URL("/api/live", location.href);
    address.protocol = address.protocol.replace("http", "ws");
    const wish: ToLine = { connect: { address: address.href, token: pageTokenNow(), output: port2 } };
    this.line.postMessage(wish, [port2]);
  }

  stop = (): void => {
    this.close();
    this.put(START);
  };

  private close(): void {
    const last: ToLine = { close: true };
    this.line?.postMessage(last);
    const line = this.line;
    setTimeout(() => line?.terminate(), 500);
    this.line = undefined;
    void this.context?.close();
    this.context = undefined;
    this.gain = undefined;
  }

  setLevel(level: number): void {
    this.level = level;
    if (this.gain && this.context) this.gain.gain.setTargetAtTime(level, this.context.currentTime, 0.01);
  }

  // what is played

  press = (pitch: number, velocity = 0.8): void => {
    this.struck = performance.now();
    this.say({ kind: "note_on", pitch, velocity });
    this.put({ down: new Set([...this.state.getState().down, pitch]) });
  };

  release = (pitch: number): void => {
    this.say({ kind: "note_off", pitch });
    this.put({ down: new Set([...this.state.getState().down].filter((one) => one !== pitch)) });
  };

  /** Lets all keys go, as when the page is no longer looked at. */
  releaseAll = (): void => {
    if (this.state.getState().phase !== "on") return;
    this.say({ kind: "release" });
    this.put({ down: new Set(), performing: "nothing" });
  };

  move = (control: string, value: number): void => {
    this.say({ kind: "move", control, value });
    this.put({ controls: { ...this.state.getState().controls, [control]: value } });
  };

  silence = (): void => {
    this.say({ kind: "panic" });
    this.put({ down: new Set(), controls: {}, performing: "nothing" });
  };

  tempo = (tempo: number): void => this.say({ kind: "tempo", tempo: Math.min(400, Math.max(20, tempo)) });

  /** A beat is tapped: from the second on, there is a tempo. */
  tap = (now = performance.now()): void => {
    if (now - (this.taps.at(-1) ?? 0) > 2500) this.taps = [];
    this.taps = [...this.taps.slice(-7), now];
    const first = this.taps[0] ?? now;
    if (this.taps.length > 1) this.tempo((60_000 * (this.taps.length - 1)) / (now - first));
  };

  beat = (what: "tick" | "start" | "stop" | "continue"): void => this.say({ kind: "beat", what });

  perform = (what: Performing, phrase: Phrase): void => {
    this.say({ kind: "perform", what, ...(what === "phrase" && { phrase }) });
    this.put({ performing: what });
  };

  record = (countIn: number, click: boolean, movements: boolean): void =>
    this.say({ kind: "record", count_in: countIn, click, movements });

  finish = (grid: number): void => this.say({ kind: "finish", grid });

  taken = (): void => this.put({ recorded: undefined });

  freeze = (on: boolean): void => {
    this.say({ kind: "freeze", on });
    this.put({ frozen: on });
  };

  /** Follows the bench: what has changed since it was followed last. */
  follow(scene: LiveScene): void {
    const before = this.scene;
    this.scene = scene;
    if (!before || this.state.getState().phase !== "on") return;
    if (before.listening !== scene.listening || !this.set(before.patch, scene.patch)) this.sendPatch(scene);
    if (JSON.stringify(before.views) !== JSON.stringify(scene.views)) this.look(scene);
    const { performing } = this.state.getState();
    if (performing === "phrase" && before.phrase !== scene.phrase) this.perform(performing, scene.phrase);
  }

  private sendPatch({ patch, listening }: LiveScene): void {
    this.say({ kind: "patch", patch, ...(listening && { listening }), serial: this.mark() });
  }

  /** Sends settings alone, if nothing else has changed. */
  private set(before: Patch, patch: Patch): boolean {
    if (before === patch) return true;
    const changes = settingsSince(before, patch);
    if (!changes) return false;
    for (const change of changes) this.say({ ...change, serial: this.mark() });
    return true;
  }

  private mark(): number {
    this.serial += 1;
    this.sent.set(this.serial, performance.now());
    return this.serial;
  }

  private look({ views }: LiveScene): void {
    this.say({ kind: "look", views });
  }

  private say(words: Record<string, unknown>): void {
    const message: ToLine = { say: JSON.stringify(words) };
    this.line?.postMessage(message);
  }

  // what comes

  private notice({ heard, gaps, ahead, loudest }: Noticed): void {
    if (heard !== undefined && this.struck !== undefined) {
      this.put({ heardMs: performance.now() - this.struck });
      this.struck = undefined;
    }
    if (gaps !== undefined && ahead !== undefined) this.put({ gaps, ahead, loudest: loudest ?? 0 });
  }

  private hear(told: FromLine): void {
    if (told.what === "here") this.begin(told.goesOn);
    else if (told.what === "lost") this.put({ phase: "lost", down: new Set() });
    else if (told.what === "over") {
      this.close();
      this.put({ ...START, phase: "over", text: told.text });
    } else this.listen(told.words);
  }

  /** Opens the session, or goes on in it. */
  private begin(goesOn: boolean): void {
    const { scene } = this;
    if (!scene) return;
    if (goesOn) this.sendPatch(scene);
    else
      this.say({ kind: "open", patch: scene.patch, listening: scene.listening, tempo: scene.phrase.tempo });
    this.look(scene);
    this.put({ phase: "on", text: undefined, ...(!goesOn && { controls: {}, performing: "nothing" }) });
  }

  private listen(words: Record<string, unknown>): void {
    if (words.kind === "pictures") this.see(words as unknown as Pictures);
    else if (words.kind === "problem") this.put({ text: words.text as string });
    else if (words.kind === "recorded")
      this.put(
        words.phrase === null
          ? { text: words.text as string }
          : { recorded: words.phrase as Phrase, text: undefined },
      );
  }

  private see({ lenses, measures, ...standing }: Pictures): void {
    const { serial } = standing;
    const since = serial === null ? undefined : this.sent.get(serial);
    if (serial !== null && since !== undefined) {
      this.put({ seenMs: performance.now() - since });
      for (const old of this.sent.keys()) if (old <= serial) this.sent.delete(old);
    }
    const { charts, standing: before } = this.state.getState();
    const known = before?.stirs === standing.stirs && standing.stirs > 0 ? charts : undefined;
    this.put({
      // what is only looked at in passing has no words: those of a moment ago stay until something is done
      charts: lenses.map((chart, n) => worded(chart, known?.[n])),
      ...(Object.keys(measures).length > 0 && { measures }),
      standing,
    });
    // the next are made when these are on the screen: where drawing takes long, none wait in line
    requestAnimationFrame(() => setTimeout(this.drawn));
  }

  private readonly drawn = (): void => this.say({ kind: "drawn" });

  private put(part: Partial<LiveState>): void {
    this.state.setState(part);
  }
}

interface Pictures extends Standing {
  lenses: (Chart | null)[];
  measures: Record<string, Measure>;
}

function worded(chart: Chart | null, before: Chart | null | undefined): Chart | null {
  if (!chart || chart.sentence || before?.kind !== chart.kind) return chart;
  return { ...chart, sentence: before.sentence };
}

/** Whether a context runs, which browsers allow only after somebody has pressed something. */
async function runs(context: AudioContext): Promise<boolean> {
  const late = new Promise<void>((done) => setTimeout(done, PATIENCE_MS));
  await Promise.race([context.resume(), late]);
  return context.state === "running";
}
