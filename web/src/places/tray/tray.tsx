// The Tray: a row per texture set, a column per used map type, a mark per target.

import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef } from "react";
import type { TrayRow } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { useCommands } from "@/parts/commands";
import { DropHere } from "@/parts/drop-here";
import { useSelection } from "@/parts/selection";
import { useTitle } from "@/parts/title";
import { SelectionActions } from "./chosen-sets";
import { FilterBar } from "./filter-bar";
import { Legend } from "./set-row";
import { SetsTable } from "./sets-table";
import { TargetsMenu, useShownTargets } from "./shown-targets";
import { TrashedSets } from "./trash";
import { TrayBar, Unreadable, useFileDrop } from "./tray-bar";
import { useChange } from "./use-change";
import { columnsOf, useArrangement, useShownRows, useTitles } from "./use-tray";

const FEW = 6; // with at most this many sets, the drop area is displayed
const NO_ROWS: TrayRow[] = [];

export function Tray() {
  useTitle("Tray");
  const project = useProject();
  const find = useRef<HTMLInputElement>(null);
  const picker = useRef<HTMLInputElement>(null);
  const { data: tray, error } = useQuery(queries.tray(project));
  const { data: targets } = useQuery(queries.targets());
  const rows = tray?.rows ?? NO_ROWS;
  const { shown, ...menu } = useShownTargets(project, targets, rows);
  const { arrangement, arrange } = useArrangement(project);
  const { groups, ids } = useShownRows(rows, arrangement, shown);
  const chosen = useSelection(ids);
  const changing = useChange(project);
  const taking = useFileDrop(project);
  const titles = useTitles();
  const columns = useMemo(() => columnsOf(rows), [rows]);
  const picks = rows.filter((row) => chosen.ids.has(row.id));
  useCommands([
    { id: "tray-find", label: "Tray: filter sets", keys: "/", run: () => find.current?.focus() },
    {
      id: "tray-all",
      label: "Tray: select all displayed sets, or clear selection",
      keys: "Ctrl+A",
      run: () => chosen.chooseAll(ids, !ids.every((id) => chosen.ids.has(id))),
    },
    { id: "tray-none", label: "Tray: clear selection", keys: "Escape", run: chosen.clear },
  ]);
  return (
    <div className="flex h-full flex-col px-4 pb-3">
      <TrayBar rows={tray?.rows} taking={taking} picker={picker}>
        <TargetsMenu targets={targets ?? []} shown={shown} {...menu} />
      </TrayBar>
      {error && <p className="rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>}
      {tray && <Unreadable project={project} />}
      {rows.length > 0 && (
        <>
          <FilterBar
            {...arrangement}
            rows={rows}
            shown={ids.length}
            field={find}
            onChange={arrange}
          />
          {ids.length > 0 ? (
            <SetsTable {...{ groups, chosen, columns, targets: shown, project, titles }} />
          ) : (
            <p className="rounded-md border border-rule bg-card p-6 text-center text-second">
              No sets match “{arrangement.find}”.
            </p>
          )}
        </>
      )}
      {tray && (
        <div className="flex min-h-6 shrink-0 items-end justify-between">
          {rows.length > 0 ? <Legend /> : <span />}
          <TrashedSets project={project} count={tray.trash_count} changing={changing} />
        </div>
      )}
      {tray && rows.length <= FEW && picks.length === 0 && (
        <DropHere
          over={taking.over}
          title={taking.over ? "Drop to import" : "Drop a photo of a surface anywhere, or paste it"}
          onClick={() => picker.current?.click()}
        >
          One picture becomes a texture set immediately. Several pictures, a folder or a zip open in
          Intake, where you sort them. Your files aren't changed.
        </DropHere>
      )}
      {picks.length > 0 && (
        <SelectionActions
          rows={picks}
          project={project}
          changing={changing}
          onNone={chosen.clear}
        />
      )}
    </div>
  );
}
