// Message over the lit view while the linked model loads, or if it can't be displayed.
import { timeLeft } from "@/api/jobs";
import { ProgressBar } from "@/parts/progress-bar";
import type { ModelWaiting } from "@/places/bench/use-model";

export function WaitingForModel({ waiting }: { waiting: ModelWaiting }) {
  const { name, job, error } = waiting;
  const share = job?.state === "running" ? Math.round((job.progress ?? 0) * 100) : null;
  return (
    <div
      role="status"
      className="absolute top-12 left-2.5 w-76 rounded-md border border-rule bg-card px-3 py-2"
    >
      {error ? (
        <p className="text-wrong">
          {name} can't be shown: {error}
        </p>
      ) : (
        <>
          <p className="truncate font-medium" title={name}>
            Preparing {name}
          </p>
          <div className="mt-1.5">
            <ProgressBar label={`Preparing ${name}`} share={share} />
          </div>
          <p className="mt-1 flex gap-2 text-small text-second">
            <span className="truncate">
              {job?.state === "queued" ? "Waiting for a worker" : job?.step || "Loading"}
            </span>
            <span className="ml-auto shrink-0 figures">{timeLeft(job ?? undefined)}</span>
          </p>
        </>
      )}
    </div>
  );
}
