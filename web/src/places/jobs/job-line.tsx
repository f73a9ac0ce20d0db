// A job: subject, progress, and actions.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { AlertTriangle, Check } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { answer, api, done } from "@/api/client";
import { isOpen, type JobRead, jobsOf, timeLeft } from "@/api/jobs";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { counted } from "@/parts/format";
import { ProgressBar } from "@/parts/progress-bar";

export const JOB_NAMES: Record<JobRead["kind"], string> = {
  delivery: "Delivery",
  file_detection: "File detection",
  file_comparison: "File detection",
  light_estimation: "Light estimation",
  light_fit: "Light refinement",
  model_import: "Model import",
  model_display: "Model preview",
  uv_analysis: "UV analysis",
  environment_import: "Environment import",
  project_import: "Project import",
};

function titleOf(job: JobRead): string {
  if (job.kind === "delivery") return `no. ${job.id}`;
  if (job.files > 1) return counted(job.files, "file");
  return job.title;
}

/** Running time of a job without a known progress. */
function soFar({ seconds }: JobRead): string {
  if (!seconds || seconds < 2) return "";
  return seconds < 90
    ? `${Math.round(seconds)} s elapsed`
    : `${Math.round(seconds / 60)} min elapsed`;
}

/** Address that a job links to; null if there is none. */
function placeOf(project: string, job: JobRead): string | null {
  if (job.kind === "delivery") return `/${project}/deliveries/${job.id}`;
  if (job.kind === "file_detection" || job.kind === "light_estimation") return `/${project}/intake`;
  if (job.kind === "model_import" && job.state === "done") return `/${project}/models`;
  if (job.result?.project) return `/${job.result.project}/tray`;
  return null;
}

export function JobLine({ project, job }: { project: string; job: JobRead }) {
  const name = JOB_NAMES[job.kind];
  const title = titleOf(job);
  const place = placeOf(project, job);
  const head = (
    <>
      <span className="font-medium">{name}</span>{" "}
      <span className="text-second" title={title}>
        {title}
      </span>
    </>
  );
  const share = job.progress === null ? null : Math.round(job.progress * 100);
  return (
    <li aria-label={`${name} ${title}`} className="py-1.5">
      <div className="flex items-baseline gap-2">
        {place ? (
          <Link to={place} className="min-w-0 truncate hover:text-copper">
            {head}
          </Link>
        ) : (
          <span className="min-w-0 truncate">{head}</span>
        )}
        <span className="ml-auto" />
        <JobActions project={project} job={job} label={`${name} ${title}`} />
      </div>
      {job.state === "running" && (
        <div className="mt-1">
          <ProgressBar label={`${name} ${title}`} share={share} />
          <p className="mt-0.5 flex gap-3 text-small text-second">
            <span className="min-w-0 truncate" title={job.step}>
              {job.step || "Running"}
            </span>
            <span className="ml-auto shrink-0 figures">
              {share === null
                ? soFar(job)
                : [`${share} %`, timeLeft(job)].filter(Boolean).join(" · ")}
            </span>
          </p>
        </div>
      )}
      <JobEnd job={job} />
    </li>
  );
}

function JobEnd({ job }: { job: JobRead }): ReactNode {
  const look = "flex gap-1.5 text-small";
  if (job.state === "queued")
    return (
      <p className={`${look} text-second`}>
        {job.ahead > 0 ? `Waiting, ${counted(job.ahead, "job")} ahead` : "Waiting for a worker"}
      </p>
    );
  if (job.state === "failed")
    return (
      <p className={`${look} text-wrong`}>
        <AlertTriangle className="mt-0.5 size-3.5 shrink-0" aria-hidden="true" />
        {job.error}
      </p>
    );
  if (job.state === "done")
    return (
      <p className={`${look} text-second`}>
        <Check className="mt-0.5 size-3.5 shrink-0 text-verdigris" aria-hidden="true" />
        Done
      </p>
    );
  return job.state === "cancelled" ? <p className={`${look} text-second`}>Cancelled</p> : null;
}

function JobActions({ project, job, label }: { project: string; job: JobRead; label: string }) {
  const client = useQueryClient();
  const onSettled = () => refresh(client, jobsOf(project).queryKey);
  const path = { params: { path: { job_id: job.id } } };
  const cancel = useMutation({
    mutationFn: async () => {
      if (job.kind === "delivery")
        await answer(
          api.POST("/api/v1/deliveries/{delivery_id}/cancel", {
            params: { path: { delivery_id: job.id } },
          }),
        );
      else await answer(api.POST("/api/v1/jobs/{job_id}/cancel", path));
    },
    onSettled,
  });
  const retry = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/jobs/{job_id}/retry", path)),
    onSettled,
  });
  const dismiss = useMutation({
    mutationFn: () => done(api.DELETE("/api/v1/jobs/{job_id}", path)),
    onSettled,
  });
  const small = (verb: string, act: { mutate: () => void; isPending: boolean }) => (
    <Button
      look="small"
      className="shrink-0"
      aria-label={`${verb}: ${label}`}
      disabled={act.isPending}
      onClick={() => act.mutate()}
    >
      {verb}
    </Button>
  );
  // Files that are detected are dismissed in Intake.
  if (isOpen(job)) return job.kind === "file_detection" ? null : small("Cancel", cancel);
  return (
    <span className="flex shrink-0 gap-1.5">
      {job.state !== "done" && small("Retry", retry)}
      {small("Dismiss", dismiss)}
    </span>
  );
}
