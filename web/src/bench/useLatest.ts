import { useEffect, useRef, useState } from "react";

import { queries } from "../api/queries";

interface Latest<T> {
  data: T | undefined;
  error: Error | null;
  /** Whether `data` still answers an earlier wish. */
  behind: boolean;
  retry: () => void;
}

/**
 * Asks for what is wished now, one question at a time: while an answer is on its way, later wishes wait, and
 * only the latest of them is asked next. So a dragged ruler shows steady progress and never a queue.
 */
export function useLatest<W, T>(
  name: string,
  wish: W | undefined,
  ask: (wish: W) => Promise<T>,
  /** Called when the question under way is no longer the one that is wished. */
  abandon: () => void,
  /** Nothing is asked meanwhile; what was answered last stays. */
  paused = false,
): Latest<T> {
  const key = wish === undefined || paused ? undefined : JSON.stringify(wish);
  const [answer, setAnswer] = useState<{ key: string; data: T }>();
  const [error, setError] = useState<Error | null>(null);
  const [attempt, setAttempt] = useState(0);
  const latest = useRef(wish);
  const busy = useRef(false);

  useEffect(() => {
    latest.current = paused ? undefined : wish;
    if (key === undefined) return;
    if (busy.current) {
      abandon();
      return;
    }
    const next = async (): Promise<void> => {
      busy.current = true;
      let asked: string | undefined;
      while (latest.current !== undefined && JSON.stringify(latest.current) !== asked) {
        const current = latest.current;
        const currentKey = JSON.stringify(current);
        asked = currentKey;
        try {
          const data = await queries.query({
            queryKey: [name, currentKey],
            queryFn: () => ask(current),
            staleTime: Infinity,
            gcTime: 120_000,
          });
          setAnswer({ key: currentKey, data });
          setError(null);
        } catch (reason) {
          // what nobody wishes any longer may have been stopped
          if (JSON.stringify(latest.current) === currentKey)
            setError(reason instanceof Error ? reason : new Error(String(reason)));
        }
      }
      busy.current = false;
    };
    void next();
    // the wish is compared by its key; `ask` does not depend on what is rendered
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, attempt]);

  return {
    data: wish === undefined ? undefined : answer?.data,
    error,
    behind: key !== undefined && answer?.key !== key,
    retry: () => setAttempt((count) => count + 1),
  };
}
