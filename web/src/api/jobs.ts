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
