import { useEffect, useState } from "react";

/** True once `busy` has lasted a moment, so that nothing flashes when the answer comes at once. */
export function useLate(busy: boolean, afterMs = 350): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!busy) return undefined;
    const timer = setTimeout(() => setLate(true), afterMs);
    return () => {
      clearTimeout(timer);
      setLate(false);
    };
  }, [busy, afterMs]);
  return late;
}
