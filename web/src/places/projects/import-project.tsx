// Imports a project file of this or another installation, and reports its content.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { importProject } from "@/api/client";
import { type JobRead, type JobResult, resultOf, timeLeft } from "@/api/jobs";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { counted } from "@/parts/format";

export function ImportProject() {
  const client = useQueryClient();
  const picker = useRef<HTMLInputElement>(null);
  const [job, setJob] = useState<JobRead | null>(null);
  const take = useMutation({
    mutationKey: ["import project"],
    mutationFn: async (file: File) => resultOf(await importProject(file), setJob),
    onSuccess: () => refresh(client, queries.projects().queryKey),
    onSettled: () => setJob(null),
  });
  return (
    <>
      <input
        ref={picker}
        type="file"
        hidden
        accept=".zip"
        aria-label="Project file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) take.mutate(file);
          event.target.value = "";
        }}
      />
      <Button className="ml-auto" disabled={take.isPending} onClick={() => picker.current?.click()}>
        {take.isPending ? importing(job) : "Import project…"}
      </Button>
      {take.data && <Report made={take.data} onClose={() => take.reset()} />}
    </>
  );
}

/** Progress of an import. */
function importing(job: JobRead | null): string {
  if (!job) return "Uploading…";
  if (job.state === "queued") return "Waiting for a worker…";
  const share = `${Math.round((job.progress ?? 0) * 100)} %`;
  return [`Importing… ${share}`, timeLeft(job)].filter(Boolean).join(", ");
}

function Report({ made, onClose }: { made: JobResult; onClose: () => void }) {
  const { added = [], merged = [], skipped = [] } = made.report ?? {};
  return (
    <DialogFrame
      title={`Imported ${made.title}`}
      about={counted(made.sets ?? 0, "set")}
      look="flex max-h-[92vh] w-160 flex-col p-5"
      onClose={onClose}
    >
      <div className="min-h-0 overflow-auto">
        <Lines title="Skipped" lines={skipped} look="text-ochre" />
        <Lines title="Added" lines={added} look="" />
        <Lines title="Already on this server" lines={merged} look="text-second" />
        {added.length + merged.length + skipped.length === 0 && (
          <p className="text-second">The file contains sets and their originals only.</p>
        )}
      </div>
      <div className="mt-4 flex justify-end">
        <Button look="main" onClick={onClose}>
          Close
        </Button>
      </div>
    </DialogFrame>
  );
}

function Lines({ title, lines, look }: { title: string; lines: string[]; look: string }) {
  if (lines.length === 0) return null;
  return (
    <section aria-label={title} className="mb-3">
      <h3 className="text-small font-medium text-second">{title}</h3>
      <ul className={look}>
        {lines.map((line) => (
          <li key={line}>{line.charAt(0).toUpperCase() + line.slice(1)}</li>
        ))}
      </ul>
    </section>
  );
}
