// Sets in the trash, and restoring them.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { when } from "@/parts/format";
import type { useChange } from "./use-change";

interface Props {
  project: string;
  count: number;
  changing: ReturnType<typeof useChange>;
}

export function TrashedSets({ project, count, changing }: Props) {
  const [open, setOpen] = useState(false);
  if (count === 0) return null;
  return (
    <>
      <Button look="quiet" className="text-small" onClick={() => setOpen(true)}>
        Trash ({count})…
      </Button>
      {open && <List project={project} changing={changing} onClose={() => setOpen(false)} />}
    </>
  );
}

interface ListProps extends Omit<Props, "count"> {
  onClose: () => void;
}

function List({ project, changing, onClose }: ListProps) {
  const { data: tray } = useQuery(queries.tray(project, true));
  const rows = tray?.rows ?? [];
  const back = (ids: number[]) =>
    changing.change.mutate({ ids, change: { do: "undelete" } }, { onSuccess: onClose });
  return (
    <DialogFrame
      title="Trash"
      about="kept for 30 days"
      look="flex max-h-[80vh] w-120 flex-col p-5"
      onClose={onClose}
    >
      <ul className="min-h-0 divide-y divide-rule overflow-auto border-y border-rule">
        {rows.map((row) => (
          <li key={row.id} className="flex items-center gap-3 py-1.5">
            <span className="min-w-0 grow truncate font-medium">{row.name}</span>
            <span className="text-small text-second">{row.deleted_at && when(row.deleted_at)}</span>
            <Button look="small" onClick={() => back([row.id])}>
              Restore
            </Button>
          </li>
        ))}
      </ul>
      {rows.length > 1 && (
        <Button className="mt-3 self-end" onClick={() => back(rows.map((row) => row.id))}>
          Restore all {rows.length}
        </Button>
      )}
    </DialogFrame>
  );
}
