// Dialog that chooses an allowed folder on the server.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { CornerLeftUp, Folder, FolderPlus } from "lucide-react";
import { useState } from "react";
import { answer, api } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";

interface Props {
  folder: string;
  /** New folders can be created, and missing ones chosen. */
  makes?: boolean;
  onChoose: (folder: string) => void;
}

const line =
  "flex h-7 w-full items-center gap-2 rounded-sm px-2 text-left hover:bg-sheet focus-visible:-outline-offset-2";

export function FolderChooser({ folder, makes = false, onChoose }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const { data: roots = [] } = useQuery(queries.folderRoots());
  const { data, error } = useQuery(queries.folder(folder));
  return (
    <section aria-label="Folder" className="flex min-h-0 flex-col">
      <input
        aria-label="Folder path"
        className="h-field w-full rounded-sm border border-rule bg-card px-2 figures"
        value={typed ?? folder}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          if (typed) onChoose(typed);
          setTyped(null);
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          if (typed) onChoose(typed);
          setTyped(null);
        }}
      />
      <div className="mt-2 h-56 overflow-auto rounded-sm border border-rule bg-card p-1">
        {error && <p className="p-2 text-wrong">△ {error.message}</p>}
        {data?.parent && (
          <button type="button" className={line} onClick={() => onChoose(data.parent ?? "")}>
            <CornerLeftUp className="size-4 text-second" aria-hidden="true" /> Up to{" "}
            <span className="truncate figures">{data.parent}</span>
          </button>
        )}
        {data?.folders.map((name) => (
          <button
            key={name}
            type="button"
            className={line}
            onClick={() => onChoose(`${data.folder.replace(/\/$/, "")}/${name}`)}
          >
            <Folder className="size-4 text-second" aria-hidden="true" />
            <span className="truncate">{name}</span>
          </button>
        ))}
        {data && data.folders.length === 0 && (
          <p className="p-2 text-second">
            {data.is_there
              ? "No folders"
              : makes
                ? "This folder doesn't exist yet. The next delivery creates it."
                : "This folder doesn't exist."}
          </p>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {makes && data?.is_writable && <NewFolder inside={data.folder} onMade={onChoose} />}
        {roots.length > 1 && <span className="ml-auto text-small text-second">Start at</span>}
        {roots.length > 1 &&
          roots.map((root) => (
            <Button key={root} look="small" title={root} onClick={() => onChoose(root)}>
              {root.split("/").at(-1)}
            </Button>
          ))}
      </div>
    </section>
  );
}

function NewFolder({ inside, onMade }: { inside: string; onMade: (folder: string) => void }) {
  const client = useQueryClient();
  const [name, setName] = useState<string | null>(null);
  const make = useMutation({
    mutationFn: (wanted: string) =>
      answer(api.POST("/api/v1/folders", { body: { folder: inside, name: wanted } })),
    onSuccess: (made) => {
      setName(null);
      void client.invalidateQueries({ queryKey: ["folder"] });
      onMade(made.folder);
    },
  });
  if (name === null)
    return (
      <Button look="quiet" onClick={() => setName("")}>
        <FolderPlus className="size-4" aria-hidden="true" /> New folder
      </Button>
    );
  return (
    <span className="flex min-w-0 grow items-center gap-2">
      <input
        aria-label="Name of the new folder"
        className="h-field min-w-0 grow rounded-sm border border-rule bg-card px-2"
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") {
            event.stopPropagation();
            setName(null);
          }
          if (event.key !== "Enter") return;
          event.preventDefault();
          if (name.trim()) make.mutate(name.trim());
        }}
        // biome-ignore lint/a11y/noAutofocus: it was asked for in this moment
        autoFocus
      />
      <Button look="small" disabled={!name.trim()} onClick={() => make.mutate(name.trim())}>
        Create
      </Button>
      {make.error && <span className="text-small text-wrong">△ {make.error.message}</span>}
    </span>
  );
}
