import { useState } from "react";

/** How instructions speak: to an expert, to anybody, or to somebody who meets the modules for the first time. */
export type Voice = "brief" | "plain" | "explained";

export const VOICES: Voice[] = ["brief", "plain", "explained"];
const PLACE = "voice";

const kept = (): Voice => VOICES.find((one) => one === localStorage.getItem(PLACE)) ?? "plain";

/** The voice that this reader has chosen, here and on every later page. */
export function useVoice(): [Voice, (voice: Voice) => void] {
  const [voice, setVoice] = useState<Voice>(kept);
  return [
    voice,
    (chosen) => {
      localStorage.setItem(PLACE, chosen);
      setVoice(chosen);
    },
  ];
}
