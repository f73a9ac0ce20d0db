// Header of the set list: number of sets, displayed targets, import.
import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { type RefObject, useState } from "react";
import { useNavigate } from "react-router";
import type { TrayRow } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { useEndings } from "@/parts/pictures";
import { type TakenAs, takenAs, useImportPictures } from "./import-pictures";

/** Imports pictures in the set list; a single new set opens in the editor. */
export function useFileDrop(project: string) {
  const navigate = useNavigate();
  const [as, setAs] = useState<TakenAs>("name");
  const taking = useImportPictures(project, as, (taken) => {
    const only = taken[0];
    if (taken.length === 1 && only)
      navigate(`/${project}/bench/${only.set_id}/height`, { state: { isNew: true } });
  });
  return { ...taking, as, setAs };
}

interface Props {
  rows: TrayRow[] | undefined;
  taking: ReturnType<typeof useFileDrop>;
  picker: RefObject<HTMLInputElement | null>;
  children: React.ReactNode;
}

export function TrayBar({ rows, taking, picker, children }: Props) {
  const { takenIn } = useEndings();
  const { busy, take, as, setAs } = taking;
  return (
    <div className="flex h-bar shrink-0 items-center gap-3">
      <h1 className="text-title font-semibold">Tray</h1>
      <span className="figures text-second">{rows ? countsOf(rows) : ""}</span>
      <span role="status" className="ml-auto text-second">
        {busy}
      </span>
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        accept={takenIn}
        aria-label="Pictures to import"
        onChange={(event) => {
          take(event.target.files);
          event.target.value = "";
        }}
      />
      {children}
      <span className="text-second">On drop:</span>
      <span className="w-33">
        <Choice
          label="On drop"
          value={as}
          options={takenAs}
          onChange={(next) => setAs(next as TakenAs)}
        />
      </span>
      <Button look="main" disabled={busy !== null} onClick={() => picker.current?.click()}>
        <Plus className="size-4" /> Import…
      </Button>
    </div>
  );
}

function countsOf(rows: TrayRow[]): string {
  const maps = rows.reduce((n, row) => n + Object.keys(row.maps).length, 0);
  return `${rows.length} ${rows.length === 1 ? "set" : "sets"} · ${maps} maps`;
}

/** Unreadable sets, each with the reason. */
export function Unreadable({ project }: { project: string }) {
  const { data = [] } = useQuery(queries.unreadable(project));
  return data.map((one) => (
    <p key={one.id} role="alert" className="mb-2 rounded-md bg-wrong-pale p-3 text-wrong">
      △ {one.why}.
    </p>
  ));
}
