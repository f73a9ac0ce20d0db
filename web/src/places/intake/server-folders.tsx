// Server folders: imported by path, and watched for changes.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, done, type WatchedFolderRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { FolderChooser } from "@/parts/folder-chooser";
import { when } from "@/parts/format";
import { notify } from "@/parts/notices";

interface Props {
  project: string;
  onClose: () => void;
}

export function ServerFolders({ project, onClose }: Props) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState<string | null>(null);
  const [watching, setKeeps] = useState(true);
  const { data: roots = [] } = useQuery(queries.folderRoots());
  const { data: followed = [] } = useQuery(queries.watchedFolders(project));
  const folder = chosen ?? roots[0] ?? "";
  const path = { params: { path: { project } } };
  const fresh = () =>
    refresh(client, queries.watchedFolders(project).queryKey, ["intake", project]);
  const follow = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/projects/{project}/watched-folders", {
          ...path,
          body: { path: folder, watching },
        }),
      ),
    onSuccess: () => notify("good", `Importing ${folder}.`),
    onSettled: fresh,
  });
  const forget = useMutation({
    mutationFn: (id: number) =>
      done(
        api.DELETE("/api/v1/projects/{project}/watched-folders/{folder_id}", {
          params: { path: { project, folder_id: id } },
        }),
      ),
    onSettled: fresh,
  });
  return (
    <DialogFrame
      title="Folders on the server"
      look="flex max-h-[90vh] w-160 flex-col p-5"
      onClose={onClose}
    >
      <p className="mb-3 text-list text-second">
        Imports all pictures in a folder and its subfolders to Intake. If you watch the folder,
        changed files update their sets; Undo on the Bench reverts that.
      </p>
      <FolderChooser folder={folder} onChoose={setChosen} />
      <div className="mt-3 flex items-center gap-3">
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-copper"
            checked={watching}
            onChange={(event) => setKeeps(event.target.checked)}
          />
          Watch folder
        </label>
        <Button
          look="main"
          className="ml-auto"
          disabled={!folder || follow.isPending}
          onClick={() => follow.mutate()}
        >
          Import once
        </Button>
      </div>
      {follow.error && <p className="mt-2 text-wrong">△ {follow.error.message}</p>}
      {followed.length > 0 && (
        <ul className="mt-4 flex min-h-0 flex-col gap-3 overflow-auto border-t border-rule pt-3">
          {followed.map((one) => (
            <Followed key={one.id} of={one} onForget={() => forget.mutate(one.id)} />
          ))}
        </ul>
      )}
    </DialogFrame>
  );
}

const FEW = 3; // maximum number of listed files

function Followed({ of, onForget }: { of: WatchedFolderRead; onForget: () => void }) {
  const files = `${of.files} ${of.files === 1 ? "file" : "files"}`;
  const deleted = of.deleted > 0 ? ` · ${of.deleted} deleted, their sets stay` : "";
  const at = of.read_at ? when(of.read_at) : "";
  const state = !of.read_at
    ? "reading…"
    : of.watching
      ? `${files}${deleted} · synced ${at}`
      : `${files}${deleted} · imported ${at}`;
  return (
    <li className="flex gap-3">
      <div className="min-w-0 grow">
        <p className="truncate figures" title={of.path}>
          {of.path}
        </p>
        <p className="text-small text-second" aria-live="polite">
          {state}
        </p>
        {of.problem && <p className="text-small text-wrong">△ {of.problem}</p>}
        {of.refused.slice(0, FEW).map((text) => (
          <p key={text} className="text-small text-ochre">
            △ {text}
          </p>
        ))}
        {of.refused.length > FEW && (
          <p className="text-small text-ochre">and {of.refused.length - FEW} more</p>
        )}
      </div>
      <Button look="small" className="self-start whitespace-nowrap" onClick={onForget}>
        {of.watching ? "Stop watching" : "Remove from list"}
      </Button>
    </li>
  );
}
