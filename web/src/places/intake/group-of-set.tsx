// The files of one set: set name, existing set to extend, and a row per file.
import { useState } from "react";
import { Link } from "react-router";
import type { ArrivalRead, AssignmentChange } from "@/api/client";
import { Segmented } from "@/parts/segmented";
import { TileGrid } from "@/parts/tile-grid";
import { type Choices, FileRow } from "./file-row";

interface Props {
  name: string;
  rows: ArrivalRead[];
  /** Existing set with that name. */
  known: number | undefined;
  project: string;
  choices: Choices;
  chosen: ReadonlySet<number>;
  onChoose: (row: ArrivalRead, extend: boolean) => void;
  onChooseAll: (all: boolean) => void;
  onChange: (rows: ArrivalRead[], change: AssignmentChange) => void;
  onDismiss: (row: ArrivalRead) => void;
}

export function GroupOfSet(props: Props) {
  const {
    name,
    rows,
    known,
    project,
    choices,
    chosen,
    onChoose,
    onChooseAll,
    onChange,
    onDismiss,
  } = props;
  const all = rows.every((row) => chosen.has(row.id));
  const inside = [...new Set(rows.map((row) => row.inside).filter(Boolean))];
  const card = rows.find((row) => row.card)?.card;
  const tiles = [...new Set(rows.flatMap((row) => row.tile ?? []))];
  return (
    <section aria-label={`Set ${name}`} className="rounded-md border border-rule bg-card">
      <header className="flex h-9 items-center gap-3 rounded-t-md bg-sheet px-4">
        <input
          type="checkbox"
          className="size-4 accent-copper"
          aria-label={`Select all files of ${name}`}
          checked={all}
          onChange={(event) => onChooseAll(event.target.checked)}
        />
        <NameField key={name} name={name} onName={(set_name) => onChange(rows, { set_name })} />
        <span className="figures text-small text-second">
          {rows.length} {rows.length === 1 ? "file" : "files"}
        </span>
        {tiles.length > 0 && (
          <span className="flex items-center gap-2 text-small text-second">
            <TileGrid numbers={tiles} />
            {tiles.length} {tiles.length === 1 ? "tile" : "tiles"} of one surface
          </span>
        )}
        {known !== undefined && (
          <span className="text-small text-ochre">
            adds to the existing set{" "}
            <Link className="underline underline-offset-2" to={`/${project}/bench/${known}`}>
              show
            </Link>
          </span>
        )}
        {card && (
          <span className="rounded-full border border-verdigris px-2 text-note text-verdigris">
            source card {card}
          </span>
        )}
        {needsRelief(rows) && (
          <span className="flex items-center gap-2 text-small text-second">
            <span title="Mean slope of the maps derived from base color. A photo doesn't reveal it.">
              relief
            </span>
            <Segmented
              label={`Relief of ${name}`}
              value={wordOf(rows[0]?.relief, choices.reliefs)}
              options={Object.entries(choices.reliefs).map(([value, degrees]) => ({
                value,
                label: value,
                title: `mean slope ${degrees}°`,
              }))}
              onChange={(word) => onChange(rows, { relief: choices.reliefs[word] ?? null })}
            />
          </span>
        )}
        <span className="ml-auto max-w-75 truncate text-small text-second">
          {inside.join(", ")}
        </span>
      </header>
      <table className="w-full table-fixed border-collapse">
        <colgroup>
          <col className="w-11" />
          <col className="w-14.5" />
          <col className="w-66" />
          <col className="w-39" />
          <col className="w-110" />
          <col />
          <col className="w-10" />
        </colgroup>
        <tbody>
          {inOrder(rows, tiles.length > 0).map((row) => (
            <FileRow
              key={row.id}
              row={row}
              choices={choices}
              chosen={chosen.has(row.id)}
              onChoose={(extend) => onChoose(row, extend)}
              onChange={(change) => onChange([row], change)}
              onDismiss={() => onDismiss(row)}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** In import order; files of a tiled set by map and tile. */
function inOrder(rows: ArrivalRead[], tiled: boolean): ArrivalRead[] {
  if (!tiled) return rows;
  return rows.toSorted((a, b) => a.map.localeCompare(b.map) || (a.tile ?? 0) - (b.tile ?? 0));
}

/** Height is derived from color: there is neither a normal map nor a height map. */
function needsRelief(rows: ArrivalRead[]): boolean {
  const maps = rows.map((row) => row.map);
  return maps.includes("base_color") && !maps.includes("normal") && !maps.includes("height");
}

function wordOf(degrees: number | null | undefined, reliefs: Record<string, number>): string {
  return Object.entries(reliefs).find(([, one]) => one === degrees)?.[0] ?? "";
}

function NameField({ name, onName }: { name: string; onName: (name: string) => void }) {
  const [text, setText] = useState(name);
  const keep = () => (text.trim() && text !== name ? onName(text.trim()) : setText(name));
  return (
    <input
      aria-label={`Name of the set ${name}`}
      className="h-field w-57.5 rounded-sm border border-transparent bg-transparent px-1 font-semibold hover:border-rule focus:border-rule focus:bg-card"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setText(name);
      }}
    />
  );
}
