/** Plays rendered sounds: starts at once, goes on without a gap when the sound changes, and loops. */

import { soundOf } from "./sounds";

const RATE = 48_000;
const FADE_SECONDS = 0.012;

interface Sounding {
  source: AudioBufferSourceNode;
  gain: GainNode;
}

export interface PlayerState {
  playing: boolean;
  failed: string | null;
}

export class Player {
  private context: AudioContext | undefined;
  private master: GainNode | undefined;
  private sounding: Sounding | undefined;
  private startedAt = 0;
  private duration = 0;
  private loopSeconds: number | null = null;
  private level = 0.8;
  private wanted = "";
  private state: PlayerState = { playing: false, failed: null };
  private readonly buffers = new Map<string, Promise<AudioBuffer>>();
  private readonly listeners = new Set<() => void>();

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): PlayerState => this.state;

  /** Fetches a sound ahead of time, so that it can begin at once. */
  prepare(key: string): void {
    this.buffer(key).catch(() => undefined);
  }

  /** Plays from the beginning. `loopSeconds` is the length of a loop, or null to play once; `gain` is of this sound alone. */
  async play(key: string, loopSeconds: number | null, gain = 1): Promise<void> {
    this.wanted = key;
    this.loopSeconds = loopSeconds;
    try {
      const context = this.audio();
      await context.resume();
      const buffer = await this.buffer(key);
      if (this.wanted === key) this.begin(buffer, 0, gain);
    } catch {
      this.set({ playing: false, failed: "The sound could not be fetched." });
    }
  }

  /** Goes on at the same place with another sound; nothing happens if nothing plays. */
  async change(key: string, loopSeconds: number | null, gain = 1): Promise<void> {
    if (!this.state.playing) return;
    this.wanted = key;
    this.loopSeconds = loopSeconds;
    const buffer = await this.buffer(key).catch(() => undefined);
    if (buffer && this.wanted === key && this.snapshot().playing) this.begin(buffer, this.position(), gain);
  }

  stop(): void {
    this.wanted = "";
    this.fadeOut();
    this.set({ playing: false, failed: null });
  }

  setLevel(level: number): void {
    this.level = level;
    if (this.master && this.context) this.master.gain.setTargetAtTime(level, this.context.currentTime, 0.01);
  }

  /** Where in the sound playing stands, in seconds. */
  position(): number {
    if (!this.context || !this.state.playing) return 0;
    const since = Math.max(0, this.context.currentTime - this.startedAt);
    return this.loopSeconds ? since % this.loopSeconds : Math.min(since, this.duration);
  }

  private audio(): AudioContext {
    if (!this.context) {
      this.context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
      this.master = this.context.createGain();
      this.master.gain.value = this.level;
      this.master.connect(this.context.destination);
    }
    return this.context;
  }

  private buffer(key: string): Promise<AudioBuffer> {
    const known = this.buffers.get(key);
    if (known) return known;
    const decoded = this.decode(key);
    this.buffers.set(key, decoded);
    decoded.catch(() => this.buffers.delete(key));
    const oldest = this.buffers.keys().next().value;
    if (this.buffers.size > 12 && oldest !== undefined) this.buffers.delete(oldest);
    return decoded;
  }

  private async decode(key: string): Promise<AudioBuffer> {
    return this.audio().decodeAudioData(await soundOf(key));
  }

  private begin(buffer: AudioBuffer, offset: number, level: number): void {
    const context = this.audio();
    if (!this.master) return;
    this.fadeOut();
    const gain = context.createGain();
    gain.gain.setValueAtTime(0, context.currentTime);
    gain.gain.linearRampToValueAtTime(level, context.currentTime + (offset > 0 ? FADE_SECONDS : 0.001));
    const source = context.createBufferSource();
    source.buffer = buffer;
    if (this.loopSeconds) {
      source.loop = true;
      source.loopEnd = Math.min(this.loopSeconds, buffer.duration);
    }
    source.connect(gain).connect(this.master);
    source.onended = () => {
      if (this.sounding?.source === source) {
        this.sounding = undefined;
        this.set({ playing: false, failed: null });
      }
    };
    source.start(context.currentTime, Math.min(offset, buffer.duration));
    this.startedAt = context.currentTime - offset;
    this.duration = buffer.duration;
    this.sounding = { source, gain };
    this.set({ playing: true, failed: null });
  }

  private fadeOut(): void {
    const { sounding, context } = this;
    this.sounding = undefined;
    if (!sounding || !context) return;
    sounding.gain.gain.setTargetAtTime(0, context.currentTime, FADE_SECONDS / 3);
    sounding.source.stop(context.currentTime + 4 * FADE_SECONDS);
  }

  private set(state: PlayerState): void {
    this.state = state;
    this.listeners.forEach((listener) => listener());
  }
}
