import { useEffect, useState } from "react";

/** A value once it has stayed the same for a while: for what need not follow a ruler that is being dragged. */
export function useSettled<T>(value: T, milliseconds: number): T {
  const [settled, setSettled] = useState(value);
  const key = JSON.stringify(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), milliseconds);
    return () => clearTimeout(timer);
    // compared by what it says, since it is made anew each time
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, milliseconds]);
  return settled;
}
