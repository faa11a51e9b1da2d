import { useEffect, useState } from "react";
import { useStore } from "zustand";

import type { Live } from "./live";
import { Hearing, type Input, inputs, SIMULATED } from "./midi";

/** The MIDI device that is listened to, and what controllers have learnt. */
export function useInput(live: Live, on: boolean) {
  const [found, setFound] = useState<Input[]>([SIMULATED]);
  const [text, setText] = useState<string>();
  const [chosen, choose] = useState<Input>();
  const [hearing] = useState(() => new Hearing(live));
  const { learning } = useStore(hearing.state);
  useEffect(() => {
    if (!on || !chosen) return undefined;
    return chosen.open(hearing.hear);
  }, [on, chosen, hearing]);
  const look = async () => {
    const { found: devices, text: why } = await inputs();
    setFound(devices);
    setText(why);
  };
  return { found, text, chosen, choose, look, learning, learn: hearing.learn };
}
