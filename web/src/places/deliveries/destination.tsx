// Destination of a target in a project, and the project's overrides.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { answer, api, type DestinationRead, type DestinationWrite } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { CopyText } from "@/parts/copy-text";
import { DialogFrame } from "@/parts/dialog-frame";
import { FolderChooser } from "@/parts/folder-chooser";
import { Segmented } from "@/parts/segmented";
import { TargetOverrides } from "./target-overrides";

const LAYOUTS = [
  {
    value: "{target}/{set}",
    label: "By target",
    title: "one folder per set inside the target's folder",
  },
  {
    value: "{set}/{target}",
    label: "By set",
    title: "one folder per target inside the set's folder",
  },
  { value: "", label: "All in one", title: "all files of all sets in the folder itself" },
] as const;

interface Props {
  project: string;
  target: string;
  /** Name of a set, for an example path. */
  example: string;
  onClose: () => void;
}

export function DestinationDialog({ project, target, example, onClose }: Props) {
  const { data } = useQuery(queries.destinations(project));
  const now = data?.find((one) => one.target_id === target);
  if (!now) return null;
  return (
    <DialogFrame
      title="Destination"
      about={now.title}
      look="flex max-h-[92vh] w-190 flex-col p-5"
      onClose={onClose}
    >
      <Form key={target} {...{ project, target, example, now, onClose }} />
    </DialogFrame>
  );
}

function Form({ project, target, example, now, onClose }: Props & { now: DestinationRead }) {
  const [wanted, setWanted] = useState<DestinationWrite>({
    folder: now.folder,
    pattern: now.pattern,
    options: now.options,
    dry: false,
  });
  const put = (some: Partial<DestinationWrite>) => setWanted((before) => ({ ...before, ...some }));
  const look = useQuery({
    ...queries.destinationPreview(project, target, useDeferredValue(wanted), example),
    placeholderData: keepPreviousData,
  });
  const { keep, asUsual } = useKeeping(project, target, wanted, onClose);
  const error = look.error ?? keep.error ?? asUsual.error;
  return (
    <form
      className="flex min-h-0 flex-col"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <div className="grid min-h-0 grid-cols-[1fr_19rem] gap-5">
        <FolderChooser makes folder={wanted.folder} onChoose={(folder) => put({ folder })} />
        <TargetOverrides
          now={now}
          options={wanted.options ?? {}}
          onChange={(options) => put({ options })}
        />
      </div>
      <div className="mt-4 flex items-center gap-3">
        <span className="w-16 shrink-0 text-second">Layout</span>
        <Segmented
          label="Layout"
          value={
            LAYOUTS.some((one) => one.value === wanted.pattern) ? wanted.pattern || "flat" : ""
          }
          options={LAYOUTS.map((one) => ({ ...one, value: one.value || "flat" }))}
          onChange={(pattern) => put({ pattern: pattern === "flat" ? "" : pattern })}
        />
        <input
          aria-label="Layout pattern"
          title="Folder pattern with {target}, {set} and {project}"
          placeholder="no subfolder"
          className="h-field min-w-0 grow rounded-sm border border-rule bg-card px-2 figures"
          value={wanted.pattern}
          onChange={(event) => put({ pattern: event.target.value })}
        />
      </div>
      <div aria-live="polite" className="mt-3 min-h-14">
        {error ? (
          <p role="alert" className="text-wrong">
            △ {error.message}
          </p>
        ) : (
          look.data && <Example look={look.data} example={example} />
        )}
      </div>
      <div className="mt-2 flex justify-end gap-2">
        {!now.is_default && (
          <Button className="mr-auto" onClick={() => asUsual.mutate()}>
            Use defaults
          </Button>
        )}
        <Button look="bare" onClick={onClose}>
          Cancel
        </Button>
        <Button type="submit" look="main" disabled={!look.isSuccess || keep.isPending}>
          Save
        </Button>
      </div>
    </form>
  );
}

function Example({ look, example }: { look: DestinationRead; example: string }) {
  return (
    <>
      <p className="flex items-center gap-2">
        <span className="shrink-0 text-second">{example} is written to</span>
        <CopyText text={look.example} label="Copy full path" />
      </p>
      {look.copy_example && (
        <p className="mt-1 flex items-center gap-2">
          <span className="shrink-0 text-second">and copied to</span>
          <CopyText text={look.copy_example} label="Copy full URL" />
        </p>
      )}
      {look.shares && (
        <p className="mt-1 text-small text-second">
          Several sets or targets share this folder. Each has its own manifest, and a delivery only
          overwrites its own files.
        </p>
      )}
    </>
  );
}

function useKeeping(
  project: string,
  target: string,
  wanted: DestinationWrite,
  onClose: () => void,
) {
  const client = useQueryClient();
  const path = { params: { path: { project, target_id: target } } };
  const onSuccess = async () => {
    onClose();
    await refresh(
      client,
      queries.destinations(project).queryKey,
      queries.board(project).queryKey,
      queries.tray(project).queryKey,
      ["dry-run", project],
    );
  };
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.PUT("/api/v1/projects/{project}/destinations/{target_id}", {
          ...path,
          body: { ...wanted, dry: false },
        }),
      ),
    onSuccess,
  });
  const asUsual = useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/v1/projects/{project}/destinations/{target_id}", path)),
    onSuccess,
  });
  return { keep, asUsual };
}
