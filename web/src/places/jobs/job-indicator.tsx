// The header's job list: how many jobs run, and each of them in a popover.
import { type QueryKey, useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useEffect, useRef } from "react";
import { isOpen, type JobRead, jobsOf } from "@/api/jobs";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { counted } from "@/parts/format";
import { JobLine } from "./job-line";

/** Query keys to invalidate when a job of a kind has ended. */
function changedBy(kind: JobRead["kind"], project: string): QueryKey[] {
  if (kind === "delivery")
    return [
      ["tray", project],
      ["board", project],
      ["deliveries", project],
    ];
  if (kind === "model_import") return [queries.models(project).queryKey];
  if (kind === "environment_import") return [queries.environments(project).queryKey];
  if (kind === "project_import") return [queries.projects().queryKey];
  if (kind === "file_detection" || kind === "light_estimation") return [["intake", project]];
  return [];
}

/** Refetch what ended jobs have changed. */
function useEndedJobs(project: string, jobs: JobRead[]) {
  const client = useQueryClient();
  const before = useRef(new Map<string, JobRead["kind"]>());
  useEffect(() => {
    const open = new Map(jobs.filter(isOpen).map((one) => [`${one.kind} ${one.id}`, one.kind]));
    for (const [key, kind] of before.current)
      if (!open.has(key)) void refresh(client, ...changedBy(kind, project));
    // Files may also arrive from a watched folder or another page.
    for (const [key, kind] of open)
      if (kind === "file_detection" && !before.current.has(key))
        void refresh(client, ...changedBy(kind, project));
    before.current = open;
  }, [client, project, jobs]);
}

const none: JobRead[] = [];

export function JobIndicator({ project }: { project: string }) {
  const { data: jobs = none } = useQuery(jobsOf(project));
  useEndedJobs(project, jobs);
  const open = jobs.filter(isOpen);
  const failed = jobs.filter((one) => one.state === "failed").length;
  return (
    <Popover.Root>
      <Popover.Trigger
        className="ml-2 flex items-center gap-2 rounded-md px-2 py-1 text-second hover:text-ink"
        title="Jobs: imports, detection, deliveries"
      >
        <Ring jobs={open} />
        <span>{open.length > 0 ? counted(open.length, "job") : "No jobs running"}</span>
        {failed > 0 && <span className="text-wrong">{failed} failed</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="Jobs"
          className="z-30 max-h-[75vh] w-104 overflow-auto rounded-md border border-rule bg-card px-3 py-2"
        >
          {jobs.length === 0 && <p className="py-1 text-second">No jobs in the last 10 minutes.</p>}
          <ul className="divide-y divide-rule">
            {jobs.map((one) => (
              <JobLine key={`${one.kind} ${one.id}`} project={project} job={one} />
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Mean progress of all jobs. */
function Ring({ jobs }: { jobs: JobRead[] }) {
  const share = jobs.reduce((sum, one) => sum + (one.progress ?? 0), 0) / (jobs.length || 1);
  const around = 2 * Math.PI * 7;
  return (
    <svg viewBox="0 0 20 20" className="size-4.5" aria-hidden="true">
      <circle cx="10" cy="10" r="7" fill="none" strokeWidth="3" className="stroke-rule" />
      {jobs.length > 0 && (
        <circle
          cx="10"
          cy="10"
          r="7"
          fill="none"
          strokeWidth="3"
          className="stroke-verdigris"
          strokeDasharray={`${Math.max(0.06, share) * around} ${around}`}
          transform="rotate(-90 10 10)"
        />
      )}
    </svg>
  );
}
