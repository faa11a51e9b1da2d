import { useEffect, useRef } from "react";

/** How many times as long as the last change took is waited before the next one is made. */
const REST = 1.5;
const LONGEST_MS = 150;

/** Paces changes whose consequences take the page some time: what comes meanwhile is left out but for the last. */
class Pace<T> {
  private waiting: { value: T } | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private free = 0;
  change: (value: T) => void = () => undefined;

  take(value: T): void {
    this.waiting = { value };
    this.timer ??= setTimeout(() => this.now(), Math.max(0, this.free - performance.now()));
  }

  /** Makes the last change that waits. */
  now(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const { waiting } = this;
    if (!waiting) return;
    this.waiting = undefined;
    const begun = performance.now();
    this.change(waiting.value);
    // what is drawn anew has been worked out when the next task comes
    setTimeout(() => {
      const now = performance.now();
      this.free = now + Math.min(LONGEST_MS, REST * (now - begun));
    });
  }
}

/** Returns what takes changes at a pace that leaves the page time for its frames, and what makes the last one at once. */
export function usePaced<T>(change: ((value: T) => void) | undefined) {
  const pace = useRef(new Pace<T>());
  useEffect(() => {
    pace.current.change = (value) => change?.(value);
  });
  useEffect(() => {
    const { current } = pace;
    return () => current.now();
  }, []);
  return { take: (value: T) => pace.current.take(value), now: () => pace.current.now() };
}
