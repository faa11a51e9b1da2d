/** Plays rendered sounds: starts at once, goes on without a gap when the sound changes, and loops. */

import { soundOf } from "./sounds";

const RATE = 48_000;
const FADE_SECONDS = 0.012;
const COMPANY_SECONDS = 0.3;

interface Sounding {
  source: AudioBufferSourceNode;
  gain: GainNode;
}

/** How loud the sound itself is, and what sounds together with it. */
export interface Balance {
  own: number;
  others: number;
}

export interface PlayerState {
  playing: boolean;
  failed: string | null;
}

export class Player {
  private context: AudioContext | undefined;
  private master: GainNode | undefined;
  private sounding: Sounding | undefined;
  private besides: Sounding | undefined;
  private own: GainNode | undefined;
  private others: GainNode | undefined;
  private company: AudioBuffer | undefined;
  private balance: Balance = { own: 1, others: 0 };
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

  /** Has something else sound together with it, from where it stands; nothing if there is nothing. */
  keep(company: AudioBuffer | undefined): void {
    this.company = company;
    if (this.state.playing) this.beginCompany(this.position());
  }

  /** Fades the sound itself and what sounds together with it to other levels. */
  mix(balance: Balance): void {
    this.balance = balance;
    const { context } = this;
    if (!context) return;
    this.own?.gain.setTargetAtTime(balance.own, context.currentTime, COMPANY_SECONDS / 3);
    this.others?.gain.setTargetAtTime(balance.others, context.currentTime, COMPANY_SECONDS / 3);
  }

  /** A WAV file, decoded. */
  decoded(file: ArrayBuffer): Promise<AudioBuffer> {
    return this.audio().decodeAudioData(file);
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
      this.own = this.gain(this.context, this.master, this.balance.own);
      this.others = this.gain(this.context, this.master, this.balance.others);
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

  private gain(context: AudioContext, into: AudioNode, level: number): GainNode {
    const gain = context.createGain();
    gain.gain.value = level;
    gain.connect(into);
    return gain;
  }

  private begin(buffer: AudioBuffer, offset: number, level: number): void {
    const context = this.audio();
    if (!this.own) return;
    this.fadeOut();
    this.sounding = this.started(buffer, offset, level, this.own);
    this.startedAt = context.currentTime - offset;
    this.duration = buffer.duration;
    this.beginCompany(offset);
    this.set({ playing: true, failed: null });
  }

  private beginCompany(offset: number): void {
    this.fade(this.besides);
    this.besides = undefined;
    if (!this.company || !this.others) return;
    this.duration = Math.max(this.duration, this.company.duration);
    this.besides = this.started(this.company, offset, 1, this.others);
  }

  /** Begins a sound at a place in it, round and round if it loops. */
  private started(buffer: AudioBuffer, offset: number, level: number, into: AudioNode): Sounding {
    const context = this.audio();
    const gain = this.gain(context, into, 0);
    gain.gain.setValueAtTime(0, context.currentTime);
    gain.gain.linearRampToValueAtTime(level, context.currentTime + (offset > 0 ? FADE_SECONDS : 0.001));
    const source = context.createBufferSource();
    source.buffer = buffer;
    if (this.loopSeconds) {
      source.loop = true;
      source.loopEnd = Math.min(this.loopSeconds, buffer.duration);
    }
    source.connect(gain);
    source.onended = () => this.ended(source);
    source.start(context.currentTime, Math.min(offset, buffer.duration));
    return { source, gain };
  }

  /** Notes that a sound has come to its end; when both have, it is over. */
  private ended(source: AudioBufferSourceNode): void {
    const known = this.sounding?.source === source || this.besides?.source === source;
    if (this.sounding?.source === source) this.sounding = undefined;
    if (this.besides?.source === source) this.besides = undefined;
    if (known && !this.sounding && !this.besides) this.set({ playing: false, failed: null });
  }

  private fadeOut(): void {
    this.fade(this.sounding);
    this.fade(this.besides);
    this.sounding = undefined;
    this.besides = undefined;
  }

  private fade(sounding: Sounding | undefined): void {
    if (!sounding || !this.context) return;
    sounding.gain.gain.setTargetAtTime(0, this.context.currentTime, FADE_SECONDS / 3);
    sounding.source.stop(this.context.currentTime + 4 * FADE_SECONDS);
  }

  private set(state: PlayerState): void {
    this.state = state;
    this.listeners.forEach((listener) => listener());
  }
}
