import toWav from "audiobuffer-to-wav";

import listenerAddress from "./listener.worklet.ts?worker&url";

export interface Recording {
  /** Ends it, and gives what was recorded as a WAV file. */
  stop: () => Promise<File>;
}

/** Begins to record what the microphone hears, without anything that a browser does to make speech clearer.
 *  Tells each second that is there, with the greatest sample in it. */
export async function record(heard: (seconds: number, peak: number) => void): Promise<Recording> {
  const plain = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
  const stream = await navigator.mediaDevices.getUserMedia({ audio: { ...plain, channelCount: 1 } });
  const context = new AudioContext();
  await context.audioWorklet.addModule(listenerAddress);
  const parts: Float32Array[] = [];
  const told = { count: 0, seconds: 0, peak: 0 };
  const listener = new AudioWorkletNode(context, "listener");
  listener.port.onmessage = ({ data }: MessageEvent<Float32Array>) => {
    parts.push(data);
    told.count += data.length;
    told.peak = data.reduce((most, sample) => Math.max(most, Math.abs(sample)), told.peak);
    if (told.count >= (told.seconds + 1) * context.sampleRate) {
      told.seconds += 1;
      heard(told.seconds, told.peak);
      told.peak = 0;
    }
  };
  context.createMediaStreamSource(stream).connect(listener);
  return {
    stop: async () => {
      listener.disconnect();
      stream.getTracks().forEach((track) => track.stop());
      const count = parts.reduce((sum, part) => sum + part.length, 0);
      const buffer = context.createBuffer(1, Math.max(1, count), context.sampleRate);
      let at = 0;
      for (const part of parts) {
        buffer.getChannelData(0).set(part, at);
        at += part.length;
      }
      await context.close();
      return new File([toWav(buffer, { float32: true })], "recorded.wav", { type: "audio/wav" });
    },
  };
}
