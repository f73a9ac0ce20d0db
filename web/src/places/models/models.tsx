// Models of a project: properties, materials and linked sets.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { importModel, type ModelRead } from "@/api/client";
import { type JobRead, jobsOf, resultOf } from "@/api/jobs";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { Button } from "@/parts/button";
import { DropHere } from "@/parts/drop-here";
import { notify } from "@/parts/notices";
import { useTitle } from "@/parts/title";
import { useUploadState } from "@/places/intake/uploads";
import { JobLine } from "@/places/jobs/job-line";
import { ModelCard } from "./model-card";

const ENDINGS = ".glb,.gltf,.obj,.ply,.stl,.zip";

export function Models() {
  useTitle("Models");
  const project = useProject();
  const { data: models, error } = useQuery(queries.models(project));
  const { take, busy } = useImport(project);
  const { data: jobs = [] } = useQuery(jobsOf(project));
  const imports = jobs.filter((one) => one.kind === "model_import" && one.state !== "done");
  const picker = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  useUploadState((found) => take(found.map((one) => one.file)), setOver);
  const pick = () => picker.current?.click();
  return (
    <div className="flex min-h-full flex-col px-4 pb-4">
      <div className="flex h-bar shrink-0 items-center gap-3">
        <h1 className="text-title font-semibold">Models</h1>
        <p className="text-second">preview, UV padding and baking</p>
        <span className="ml-auto" />
        {busy && <span className="text-second">{busy}</span>}
        <Button look="main" onClick={pick} disabled={busy !== null}>
          <Plus className="size-4" aria-hidden="true" /> Import model…
        </Button>
      </div>
      <input
        ref={picker}
        type="file"
        hidden
        multiple
        accept={ENDINGS}
        aria-label="Model files"
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      {error && <p className="rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>}
      {imports.length > 0 && (
        <ul
          aria-label="Model imports"
          className="mb-4 divide-y divide-rule rounded-md border border-rule bg-card px-4 py-1"
        >
          {imports.map((one) => (
            <JobLine key={one.id} project={project} job={one} />
          ))}
        </ul>
      )}
      <ul className="flex flex-col gap-4">
        {models?.map((model: ModelRead) => (
          <ModelCard key={model.id} project={project} model={model} models={models} />
        ))}
      </ul>
      {models && (
        <DropHere
          over={over}
          title={models.length > 0 ? "Drop another model" : "Drop a model here"}
          onClick={pick}
        >
          glTF (.glb, .gltf), OBJ, PLY or STL; a model with separate files as a zip
        </DropHere>
      )}
    </div>
  );
}

/** Files are uploaded one after the other; workers analyze them in parallel. */
function useImport(project: string) {
  const client = useQueryClient();
  const [busy, setBusy] = useState<string | null>(null);
  const known = useQuery(queries.models(project)).data;
  const tell = async (job: JobRead) => {
    try {
      const { model_id } = await resultOf(job);
      const before = known?.some((one) => one.id === model_id);
      await refresh(client, queries.models(project).queryKey);
      notify("good", before ? `${job.title} was imported before.` : `${job.title} was imported.`);
    } catch (error) {
      notify("wrong", error instanceof Error ? error.message : `${job.title} was not imported.`);
    }
  };
  const send = useMutation({
    mutationFn: async (files: File[]) => {
      for (const [n, file] of files.entries()) {
        const of = files.length > 1 ? ` (${n + 1} of ${files.length})` : "";
        setBusy(`Uploading ${file.name}${of}`);
        try {
          void tell(await importModel(project, file));
        } catch (error) {
          notify(
            "wrong",
            error instanceof Error ? error.message : `${file.name} couldn't be uploaded.`,
          );
        }
        await refresh(client, jobsOf(project).queryKey);
      }
    },
    onSettled: () => setBusy(null),
  });
  return { take: (files: File[]) => files.length > 0 && send.mutate(files), busy };
}
