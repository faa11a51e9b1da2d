import { useRef, useState } from "react";

import { record, type Recording } from "./record";
import { messageOf } from "../api/messageOf";

export const LONGEST_S = 60;
const SILENCE = 0.003;

/** What has been recorded so far, and whether the last second of it was silent. */
export interface Heard {
  seconds: number;
  silent: boolean;
}

/** Records what the microphone hears, a minute at most, and gives it away when it is stopped. */
export function useMicrophone(give: (file: File) => Promise<void> | void) {
  const [recording, setRecording] = useState<Recording>();
  const [heard, setHeard] = useState<Heard>();
  const [failure, setFailure] = useState<string>();
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

  const end = async (now: Recording) => {
    clearTimeout(timer.current);
    setRecording(undefined);
    try {
      await give(await now.stop());
    } catch (error) {
      setFailure(messageOf(error));
    }
  };
  const begin = async () => {
    setFailure(undefined);
    try {
      setHeard({ seconds: 0, silent: false });
      const now = await record((seconds, peak) => setHeard({ seconds, silent: peak < SILENCE }));
      setRecording(now);
      timer.current = setTimeout(() => void end(now), LONGEST_S * 1000);
    } catch (error) {
      const refused = error instanceof DOMException && error.name === "NotAllowedError";
      setFailure(
        refused ? "The browser was not allowed to listen." : "There is no microphone to listen with.",
      );
    }
  };
  const stop = () => recording && void end(recording);
  return { heard: recording && heard, failure, begin: () => void begin(), stop };
}
