// A running delivery: total progress, and the parts that aren't delivered yet.
import { useQuery } from "@tanstack/react-query";
import type { DeliveryRead } from "@/api/client";
import { jobsOf, timeLeft } from "@/api/jobs";
import { useProject } from "@/app";
import { ProgressBar } from "@/parts/progress-bar";
import { useTargetTitles } from "./use-target-titles";

export function Progress({ delivery }: { delivery: DeliveryRead }) {
  const project = useProject();
  const { data: jobs } = useQuery(jobsOf(project));
  const own = jobs?.find((one) => one.kind === "delivery" && one.id === delivery.id);
  const { parts, done, running } = delivery.counts;
  const share = Math.round(delivery.progress * 100);
  const atWork = running === 0 ? "waiting for a worker" : `${running} running`;
  return (
    <div className="mb-4 rounded-md border border-rule bg-card p-4">
      <ProgressBar share={share} label="Delivery" />
      <p className="mt-2 flex text-second">
        {parts === 1 ? delivery.step || atWork : `${done} of ${parts} parts delivered · ${atWork}`}
        <span className="ml-auto figures">
          {share} % {timeLeft(own)}
        </span>
      </p>
    </div>
  );
}

type PartRead = DeliveryRead["parts"][number];

/** A waiting, running, failed or cancelled part. */
export function RunningPart({ part }: { part: PartRead }) {
  const title = useTargetTitles()(part.target_id);
  return (
    <section
      aria-label={`${part.set_name} for ${part.target_id}`}
      className="mb-2 flex min-h-10 items-center gap-2.5 rounded-md border border-rule bg-card px-4 py-1.5"
    >
      <h2 className="ml-6.5 w-56 shrink-0 truncate font-semibold" title={part.set_name}>
        {part.set_name}
      </h2>
      <span className="w-64 shrink-0 truncate text-second" title={title}>
        for {title}
      </span>
      <span className="min-w-0">
        <PartState part={part} />
      </span>
    </section>
  );
}

function PartState({ part }: { part: PartRead }) {
  if (part.state === "failed") return <span className="text-wrong">△ {part.error}</span>;
  if (part.state === "cancelled") return <span className="text-second">not delivered</span>;
  if (part.state !== "running")
    return <span className="text-second">{part.step || "waiting"}</span>;
  const share = Math.round(part.progress * 100);
  return (
    <span className="flex items-center gap-3">
      <span className="text-second">{part.step || "beginning"}</span>
      <span className="w-32">
        <ProgressBar share={share} label={`${part.set_name} for ${part.target_id}`} />
      </span>
      <span className="w-10 text-right figures">{share} %</span>
    </span>
  );
}
