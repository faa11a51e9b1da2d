/**
 * Plays what comes, and says how far ahead it wants to have it: as little as can be without a gap. It runs beside the
 * page, so nothing that the page draws can make it stutter.
 */

declare const sampleRate: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

const ROOM = 1 << 16; // frames
const ASK_EVERY = 256;
const LEAST_AHEAD = 640;
const FIRST_AHEAD = 896;
const MOST_AHEAD = 14_400;
const LOOKED_SECONDS = 3; // over so long it is seen how much was left at the least
const MARGIN = 320; // frames that are to be left at the least
const CLOSE = 96; // frames: where no more were left, a gap was near, and teaches as much as one
const SETTLING_SECONDS = 1.5; // at the beginning gaps say nothing of what is to come
const LESSON_SECONDS = 600; // so long a gap is remembered: what was too little then is not asked for again
const FADE = 240;
const HEARD = 1e-3;
const TELL_EVERY = 4800;

class Output extends AudioWorkletProcessor {
  private readonly left = new Float32Array(ROOM);
  private readonly right = new Float32Array(ROOM);
  /** The sample behind the last that is there, as the server counts, and how many of them are to be played. */
  private end = 0;
  private fill = 0;
  private write = 0;
  private ahead = FIRST_AHEAD;
  private sinceAsked = 0;
  private sinceTold = 0;
  /** The loudest of all since it was told how it stands: a few milliseconds of a low tone say little of its level. */
  private peak = 0;
  private age = 0;
  private looked = 0;
  /** How little was too little, and since when that is known. */
  private floor = LEAST_AHEAD;
  private sinceFloor = 0;
  private gaps = 0;
  private leastFill = ROOM;
  private begun = false;
  private gain = 0;
  private silent = true;
  private source: MessagePort | undefined;

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<{ source?: MessagePort }>) => {
      if (data.source) this.listen(data.source);
    };
  }

  /** Takes sound from another way. */
  private listen(source: MessagePort): void {
    this.source = source;
    source.onmessage = ({ data }: MessageEvent<{ anew?: boolean; first?: number; sound?: Float32Array }>) => {
      if (data.anew) this.beginAnew();
      if (data.sound && data.first !== undefined) this.take(data.first, data.sound);
    };
    this.ask();
  }

  private beginAnew(): void {
    this.end = 0;
    this.fill = 0;
    this.begun = false;
    this.age = 0;
    this.ask();
  }

  private take(first: number, sound: Float32Array): void {
    const count = sound.length / 2;
    if (first + count <= this.end || this.fill + count > ROOM) return;
    for (let n = 0; n < count; n++) {
      this.left[this.write] = sound[2 * n] ?? 0;
      this.right[this.write] = sound[2 * n + 1] ?? 0;
      this.write = (this.write + 1) % ROOM;
    }
    this.end = first + count;
    this.fill += count;
  }

  private ask(): void {
    this.sinceAsked = 0;
    this.source?.postMessage(this.end - this.fill + this.ahead);
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (!left || !right) return true;
    if (!this.begun && this.fill >= Math.min(this.ahead, left.length * 4)) this.begun = true;
    const can = this.begun ? Math.min(left.length, this.fill) : 0;
    let loudest = 0;
    for (let n = 0; n < left.length; n++) {
      const there = n < can;
      // the nearer the end of what is there, the softer, so that a gap does not click
      this.gain = there
        ? Math.min(1, this.gain + 1 / FADE, Math.max(0, (this.fill - n) / 32))
        : Math.max(0, this.gain - 1 / FADE);
      const at = (this.write - this.fill + n + 2 * ROOM) % ROOM;
      left[n] = there ? this.gain * (this.left[at] ?? 0) : 0;
      right[n] = there ? this.gain * (this.right[at] ?? 0) : 0;
      loudest = Math.max(loudest, Math.abs(left[n] ?? 0), Math.abs(right[n] ?? 0));
    }
    this.fill -= can;
    this.count(can, left.length);
    this.notice(loudest);
    return true;
  }

  /** Notes gaps, and asks for more where there are some and for less where much was left all the while. */
  private count(can: number, wanted: number): void {
    this.age += wanted;
    this.looked += wanted;
    this.sinceFloor += wanted;
    if (this.begun) {
      this.leastFill = Math.min(this.leastFill, this.fill);
      if (can < wanted) this.miss();
      else if (this.looked > LOOKED_SECONDS * sampleRate) this.settle();
    }
    this.sinceAsked += wanted;
    if (this.sinceAsked >= ASK_EVERY) this.ask();
  }

  private miss(): void {
    this.begun = false;
    this.look();
    if (this.age < SETTLING_SECONDS * sampleRate) return;
    this.gaps++;
    this.learn(1.25);
    this.ahead = Math.min(MOST_AHEAD, Math.ceil(1.5 * this.ahead));
  }

  /** Remembers that it was too little, and by how much. */
  private learn(times: number): void {
    this.floor = Math.min(MOST_AHEAD, Math.ceil(times * this.ahead));
    this.sinceFloor = 0;
  }

  private settle(): void {
    if (this.sinceFloor > LESSON_SECONDS * sampleRate) this.floor = LEAST_AHEAD;
    const spare = this.leastFill - MARGIN;
    if (this.leastFill < CLOSE) {
      this.learn(1.1);
      this.ahead = Math.max(this.ahead, this.floor);
    } else if (spare > 0) this.ahead = Math.max(this.floor, Math.ceil(this.ahead - 0.5 * spare));
    this.look();
  }

  private look(): void {
    this.looked = 0;
    this.leastFill = ROOM;
  }

  /** Tells when silence ends, at once, and how it stands, now and then. */
  private notice(loudest: number): void {
    const heard = loudest > HEARD;
    if (heard && this.silent) this.port.postMessage({ heard: this.end - this.fill });
    this.silent = !heard;
    this.peak = Math.max(this.peak, loudest);
    this.sinceTold += 128;
    if (this.sinceTold < TELL_EVERY) return;
    this.port.postMessage({
      played: this.end - this.fill,
      gaps: this.gaps,
      ahead: this.ahead,
      loudest: this.peak,
    });
    this.sinceTold = 0;
    this.peak = 0;
  }
}

registerProcessor("live-output", Output);
