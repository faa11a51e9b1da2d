import { useQueries } from "@tanstack/react-query";

import { client, got } from "../api/client";
import { useSettled } from "../api/useSettled";

const SILENT_LUFS = -70;
const STILL_MS = 400;

export interface Gains {
  this: number;
  other: number;
}

/** By how much two sounds are turned down so that both are heard equally loud, and louder does not win. */
export function useMatchedGains(nowKey: string | undefined, nowOther: string | undefined): Gains | undefined {
  const { key, other } = useSettled({ key: nowKey, other: nowOther }, STILL_MS);
  const [ours, theirs] = useQueries({
    queries: [key, other].map((one) => ({
      queryKey: ["loudness", one],
      enabled: key !== undefined && other !== undefined,
      staleTime: Infinity,
      queryFn: async () =>
        (await got(client.GET("/api/renders/{key}/loudness", { params: { path: { key: one ?? "" } } }))).lufs,
    })),
  });
  const [here, there] = [ours?.data, theirs?.data];
  if (here === undefined || there === undefined || Math.min(here, there) < SILENT_LUFS) return undefined;
  const softer = Math.min(here, there);
  const down = (loudness: number) => 10 ** ((softer - loudness) / 20);
  return { this: down(here), other: down(there) };
}
