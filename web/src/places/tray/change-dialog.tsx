// A change of several sets: described, previewed, then applied.
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import type { Change, ChangedRead, TrayRow } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { type ChangeForm, type FormName, forms } from "./change-forms";

interface Props {
  name: FormName;
  rows: TrayRow[];
  project: string;
  onDo: (change: Change) => void;
  /** Open the before/after comparison first; for changes of appearance. */
  onWall: (change: Change) => void;
  onClose: () => void;
}

/** Initial change, for changes without parameters. */
const atOnce: Partial<Record<FormName, Change>> = {
  delete: { do: "delete" },
  green: { do: "flip_green", card: null },
};

export function ChangeDialog({ name, rows, project, onDo, onWall, onClose }: Props) {
  const { title, verb, Form }: ChangeForm = forms[name];
  const [change, setChange] = useState<Change | null>(atOnce[name] ?? null);
  const looked = useDeferredValue(change);
  const ids = rows.map((row) => row.id);
  const look = useQuery({
    ...queries.changePreview(project, ids, looked ?? { do: "delete" }),
    enabled: looked !== null,
  });
  const count = look.data ? look.data.changed.length + look.data.made.length : 0;
  const ready = change !== null && look.isSuccess && !look.isFetching && count > 0;
  return (
    <DialogFrame
      title={title}
      about={rows.length === 1 ? rows[0]?.name : `${rows.length} sets`}
      look="w-120 p-5"
      onClose={onClose}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (change && ready) onDo(change);
        }}
      >
        <Form rows={rows} project={project} onChange={setChange} />
        <div aria-live="polite" className="min-h-12 text-list">
          {change && look.error && <p className="text-wrong">△ {look.error.message}.</p>}
          {change && look.data && <Looked data={look.data} rows={rows} />}
        </div>
        <div className="mt-3 flex justify-end gap-2">
          {"seen" in forms[name] && (
            <Button className="mr-auto" disabled={!ready} onClick={() => change && onWall(change)}>
              Preview before/after…
            </Button>
          )}
          <Button look="bare" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="main" disabled={!ready}>
            {verb} {count === 1 ? "1 set" : `${count} sets`}
          </Button>
        </div>
      </form>
    </DialogFrame>
  );
}

const MOST = 6; // maximum number of listed names

/** Affected and unaffected sets. */
function Looked({ data, rows }: { data: ChangedRead; rows: TrayRow[] }) {
  const names = new Map(rows.map((row) => [row.id, row.name]));
  const listed = (ids: number[]) => {
    const some = ids.slice(0, MOST).map((id) => names.get(id) ?? String(id));
    return `${some.join(", ")}${ids.length > MOST ? ` and ${ids.length - MOST} more` : ""}`;
  };
  return (
    <>
      {data.messages.map((one) => (
        <p key={one.text} className="text-second">
          {one.text}.
        </p>
      ))}
      {data.kept.map((one) => (
        <p key={one.text} className="text-ochre">
          {one.set_ids.length} unchanged ({one.text}): {listed(one.set_ids)}.
        </p>
      ))}
    </>
  );
}
