declare module "audiobuffer-to-wav" {
  /** Returns a WAV file of a buffer: 16-bit, or 32-bit float. */
  export default function toWav(buffer: AudioBuffer, options?: { float32?: boolean }): ArrayBuffer;
}
