/** What hears the microphone, sample by sample: the browser's own recorder would bend the sound. */
class Listener extends AudioWorkletProcessor {
  process([input]: Float32Array[][]): boolean {
    const channel = input?.[0];
    if (channel) this.port.postMessage(channel.slice());
    return true;
  }
}

registerProcessor("listener", Listener);
