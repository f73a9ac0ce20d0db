// Jobs: operations that take longer than a request; listed, and awaited.
import { queryOptions } from "@tanstack/react-query";
import { ApiError, answer, api, type Schemas } from "./client";
import { BUSY_EVERY, CALM_EVERY } from "./pace";

export type JobRead = Schemas["JobRead"];
export type JobResult = Schemas["JobResultRead"];

export function isOpen(job: Pick<JobRead, "state">): boolean {
  return job.state === "queued" || job.state === "running";
}

/** Jobs and deliveries of a project: waiting, running, failed, and recently completed ones. */
export function jobsOf(project: string) {
  return queryOptions({
    queryKey: ["jobs", project],
    queryFn: () =>
      answer(api.GET("/api/v1/projects/{project}/jobs", { params: { path: { project } } })),
    refetchInterval: ({ state: { data } }) => (data?.some(isOpen) ? BUSY_EVERY : CALM_EVERY),
  });
}

/** Wait for the result of a job; throws its error if it failed or was cancelled. */
export async function resultOf(
  job: JobRead,
  onProgress: (job: JobRead) => void = () => {},
): Promise<JobResult> {
  let now = job;
  while (isOpen(now)) {
    await new Promise((over) => setTimeout(over, BUSY_EVERY));
    now = await answer(api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: job.id } } }));
    onProgress(now);
  }
  if (now.state === "done" && now.result) return now.result;
  const why = now.error ?? `The import of ${now.title} was cancelled.`;
  throw new ApiError(why, now.error_code ?? now.state, 0);
}

/** Remaining time as text; empty while unknown. */
export function timeLeft(work: Pick<JobRead, "seconds_left"> | undefined): string {
  const left = work?.seconds_left;
  if (left === null || left === undefined) return "";
  const seconds = Math.max(1, Math.round(left));
  return `about ${seconds < 90 ? `${seconds} s` : `${Math.round(seconds / 60)} min`} left`;
}

/** Images of a set with re-estimated lights; the set isn't changed. */
export async function fittedLights(
  setId: number,
  body: Schemas["LightsQuery"],
): Promise<Schemas["CapturesSpec"]> {
  const path = { params: { path: { set_id: setId } } };
  const job = await answer(api.POST("/api/v1/sets/{set_id}/lights", { ...path, body }));
  const { captures } = await resultOf(job);
  if (!captures) throw new Error("No lights were detected.");
  return captures;
}
