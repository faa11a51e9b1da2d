import { useRef, useState } from "react";

import { messageOf } from "./messageOf";
import { client, got, type Job } from "./client";

/** Waits until a job has ended, and tells how much of it is done, 0 to 1; throws what it has failed of. */
export async function ended(job: Job, tell: (part: number) => void): Promise<Job> {
  let seen = job;
  while (seen.state === "waiting" || seen.state === "running") {
    tell(seen.part);
    const params = { path: { job_id: job.id }, query: { seen: seen.part } };
    seen = await got(client.GET("/api/jobs/{job_id}", { params }));
  }
  if (seen.state === "failed") throw new Error(seen.problem?.detail ?? "This could not be done.");
  return seen;
}

/** Stops a job; one that has ended stays as it is. */
export const stop = (id: string) =>
  got(client.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: id } } }));

export interface Making {
  /** What is being made, and how much of it is done, 0 to 1; undefined until it is known. */
  busy: { words: string; part: number | undefined } | undefined;
  failure: string | undefined;
  /** What was made last: it can be fetched again for an hour. */
  made: { words: string; address: string } | undefined;
  make: (words: string, ask: () => Promise<Job>) => void;
  giveUp: () => void;
}

/** Lets a job make a file, shows how far it is, and saves the file when it is there. */
export function useMaking(): Making {
  const [busy, setBusy] = useState<Making["busy"]>();
  const [failure, setFailure] = useState<string>();
  const [made, setMade] = useState<Making["made"]>();
  const running = useRef<Job>(undefined);
  const run = async (words: string, ask: () => Promise<Job>) => {
    const job = await ask();
    running.current = job;
    const end = await ended(job, (part) => setBusy({ words, part }));
    if (end.state !== "done") return;
    const address = `/api/jobs/${job.id}/file`;
    setMade({ words, address });
    save(address);
  };
  const make = (words: string, ask: () => Promise<Job>) => {
    setBusy({ words, part: undefined });
    setFailure(undefined);
    setMade(undefined);
    run(words, ask)
      .catch((error: unknown) => setFailure(messageOf(error)))
      .finally(() => {
        running.current = undefined;
        setBusy(undefined);
      });
  };
  const giveUp = () => {
    if (running.current) stop(running.current.id).catch(() => undefined); // what is done already stays so
  };
  return { busy, failure, made, make, giveUp };
}

/** Saves a file as what it is called. */
function save(address: string): void {
  const link = document.createElement("a");
  link.href = address;
  link.download = "";
  link.click();
}
