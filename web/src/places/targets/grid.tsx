// The packing grid: rows are maps and their components, columns the channels of the files.
import { Plus } from "lucide-react";
import { useState } from "react";
import type { KindRead, Schemas, TargetPreset } from "@/api/client";
import { Button } from "@/parts/button";
import { FileFoot } from "./file-foot";
import type { Format } from "./file-settings";
import { GridCell, OpenedCell } from "./grid-cell";
import {
  connected,
  EMPTY,
  type FileSpec,
  type Hold,
  holds,
  holdsPairs,
  LETTERS,
  type Letter,
  type Row,
  swapped,
  withFacts,
  withNewFile,
  withoutChannel,
  withoutFile,
  withSlot,
} from "./packing";
import type { Change } from "./use-target";

type Slot = Schemas["Slot"];

interface Props {
  preset: TargetPreset;
  rows: Row[];
  kinds: KindRead[];
  formats: Format[];
  /** Maps of the example set. */
  present: Set<string>;
  /** Rows imported from packed files, with their source channel. */
  packed: Map<string, string>;
  trial: Schemas["TargetPreviewRead"] | undefined;
  locked: boolean;
  onChange: (change: Change) => void;
}

/** Arrow keys move between cells. */
function walk(event: React.KeyboardEvent<HTMLTableElement>) {
  const turn = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[
    event.key
  ];
  const from = (event.target as HTMLElement).dataset.crossing;
  if (!turn || !from) return;
  const [row = 0, column = 0] = from.split(":").map(Number);
  const to = `${row + (turn[0] ?? 0)}:${column + (turn[1] ?? 0)}`;
  const next = event.currentTarget.querySelector<HTMLElement>(`[data-crossing="${to}"]`);
  if (!next) return;
  event.preventDefault();
  next.focus();
}

/** Width of the grid: enough for file settings, and filling the page if there are few files. */
function columnWidth(files: number): number {
  return Math.max(41, Math.min(56, Math.floor((innerWidth - 290) / (files * 4))));
}

type Files = { file: FileSpec; n: number }[];

type HoldOf = (slot: Slot | undefined) => Hold;

const holdsConstant: HoldOf = (slot) => ((slot?.constant ?? null) === null ? "none" : "plain");
const CONSTANT = "Constant";

/** Row, file and channel of a cell; the row of constants is the last. */
function placed(place: string) {
  const [r = 0, column = 0] = place.split(":").map(Number);
  return { r, n: Math.floor(column / 4), letter: LETTERS[column % 4] as Letter };
}

/** Connection of a cell, or none. */
function openedAt({ preset, rows }: Props, place: string) {
  const { r, n, letter } = placed(place);
  const file = preset.files[n];
  const slot = file?.channels[letter];
  const row = rows[r];
  if (!file || !slot || (row ? holds(slot, row) : holdsConstant(slot)) === "none") return null;
  return { row, file, slot, letter, n };
}

export function PackingGrid(props: Props) {
  const { preset, rows, kinds, formats, trial, locked, onChange } = props;
  const [at, setAt] = useState<{ place: string; button: HTMLElement } | null>(null);
  const files = preset.files.map((file, n) => ({ file, n }));
  const width = columnWidth(files.length);
  // A file that the set doesn't get isn't in the preview.
  const triedOf = (suffix: string, n: number) =>
    trial?.files.find((one) => one.suffix === suffix) ??
    (trial?.files.length === preset.files.length ? trial.files[n] : undefined);
  const kindOf = (kind: string) => kinds.find((one) => one.kind === kind)?.title ?? kind;
  const titleOf = (row: Row) => `${kindOf(row.kind)}${row.label ? ` ${row.label}` : ""}`;
  const opened = at && openedAt(props, at.place);
  if (at && !opened) setAt(null); // the previous content is removed
  // A click connects, or opens the settings of a connected cell.
  const press = (event: React.MouseEvent) => {
    const button = (event.target as HTMLElement).closest<HTMLElement>("[data-crossing]");
    const place = button?.dataset.crossing;
    if (!button || !place || locked) return;
    const { r, n, letter } = placed(place);
    const row = rows[r];
    if (openedAt(props, place)) setAt(place === at?.place ? null : { place, button });
    else if (row) onChange((one) => connected(one, n, letter, row, formats));
    else onChange((one) => withSlot(one, n, letter, EMPTY, formats));
  };
  const shared = { files, locked, open: at?.place ?? null };
  return (
    <>
      <table className="border-collapse text-list" onKeyDown={walk} onClick={press}>
        <Head
          files={files}
          width={width}
          onFile={locked ? null : () => onChange((one) => withNewFile(one, formats))}
        />
        <tbody>
          {rows.map((row, r) => (
            <tr
              key={`${row.kind}-${row.component}`}
              className={row.first ? "border-t border-rule" : undefined}
            >
              <RowTitle row={row} title={kindOf(row.kind)} {...props} />
              <Crossings
                {...shared}
                row={r}
                title={titleOf(row)}
                holdOf={(slot) => holds(slot, row)}
              />
            </tr>
          ))}
          <tr className="border-t border-rule">
            <th className="sticky left-0 z-10 bg-card pl-3 text-left font-medium">{CONSTANT}</th>
            <Crossings
              {...shared}
              row={rows.length}
              title={CONSTANT}
              holdOf={holdsConstant}
              withValue
            />
          </tr>
          <tr className="border-t border-rule align-top">
            <td className="sticky left-0 z-10 bg-card" />
            {files.map(({ file, n }) => (
              <td
                key={`${file.suffix}-${n}`}
                colSpan={4}
                className="border-l border-rule bg-sheet p-0"
              >
                <FileFoot
                  file={file}
                  formats={formats}
                  tried={triedOf(file.suffix, n)}
                  width={width * 4}
                  leftOut={trial !== undefined && !trial.error && !triedOf(file.suffix, n)}
                  locked={locked}
                  onFacts={(part) => onChange((one) => withFacts(one, n, part))}
                  onRemove={
                    locked || files.length === 1
                      ? null
                      : () => onChange((one) => withoutFile(one, n))
                  }
                />
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      {at && opened && (
        <OpenedCell
          {...settingsOf(props, opened)}
          key={at.place}
          label={labelOf(opened.row ? titleOf(opened.row) : CONSTANT, opened.letter, opened.file)}
          button={at.button}
          onClose={() => setAt(null)}
        />
      )}
    </>
  );
}

interface HeadProps {
  files: Files;
  width: number;
  /** Adds a file; hidden for built-in targets. */
  onFile: (() => void) | null;
}

function Head({ files, width, onFile }: HeadProps) {
  return (
    <thead>
      <tr>
        <td className="sticky left-0 z-10 min-w-43 bg-card" />
        {files.map(({ file, n }) => (
          <th
            key={`${file.suffix}-${n}`}
            colSpan={4}
            className="border-l border-rule bg-sheet px-2 py-1 text-left font-semibold"
          >
            {file.suffix || file.name}
          </th>
        ))}
        {onFile && (
          <th rowSpan={2} className="border-l border-rule px-2">
            <Button look="quiet" onClick={onFile}>
              <Plus className="size-4" aria-hidden="true" /> File
            </Button>
          </th>
        )}
      </tr>
      <tr className="border-b border-rule text-second">
        <td className="sticky left-0 z-10 bg-card" />
        {files.flatMap(({ file, n }) =>
          LETTERS.map((letter) => (
            <th
              key={`${n}-${letter}`}
              style={{ width, minWidth: width }}
              className={`font-medium figures ${letter === "R" ? "border-l border-rule" : ""} ${file.channels[letter] ? "text-ink" : "opacity-45"}`}
              title={file.channels[letter] ? undefined : `no ${letter}`}
            >
              {letter}
            </th>
          )),
        )}
      </tr>
    </thead>
  );
}

/** A map component, whether the set has it, and its source channel. */
function RowTitle({ row, title, present, packed }: Props & { row: Row; title: string }) {
  const there = present.has(row.kind);
  return (
    <th className="sticky left-0 z-10 bg-card pr-2 pl-3 text-left font-normal">
      <span className="flex items-baseline justify-between gap-2">
        <span
          className={`whitespace-nowrap ${row.first ? "font-medium" : "invisible"} ${there ? "" : "text-second italic"}`}
          title={there ? undefined : "not in this set"}
        >
          {title}
        </span>
        <span className="text-second figures">
          {packed.has(row.kind) && (
            <span title="imported from this channel of a packed file">
              from {packed.get(row.kind)}
            </span>
          )}
          {row.label}
        </span>
      </span>
    </th>
  );
}

interface CrossingsProps {
  files: Files;
  locked: boolean;
  /** The expanded cell, if any. */
  open: string | null;
  /** Row index. */
  row: number;
  title: string;
  holdOf: HoldOf;
  /** Display the value. */
  withValue?: boolean;
}

/** Cells of a row for every channel of every file. */
function Crossings(props: CrossingsProps) {
  const { files, locked, open, row, title, holdOf, withValue = false } = props;
  return files.flatMap(({ file, n }) =>
    LETTERS.map((letter, c) => {
      const slot = file.channels[letter];
      const place = `${row}:${n * 4 + c}`;
      return (
        <GridCell
          key={`${n}-${letter}`}
          label={labelOf(title, letter, file)}
          hold={holdOf(slot)}
          locked={locked}
          open={open === place}
          place={place}
          first={letter === "R"}
          constant={withValue ? (slot?.constant ?? null) : null}
        />
      );
    }),
  );
}

const labelOf = (title: string, letter: Letter, file: FileSpec) =>
  `${title} in ${letter} of ${file.suffix || file.name}`;

/** Actions of a cell, and suggestions for it. */
function settingsOf(props: Props, opened: NonNullable<ReturnType<typeof openedAt>>) {
  const { kinds, formats, onChange } = props;
  const { file, slot, letter, n } = opened;
  const has = Object.keys(file.channels) as Letter[];
  const pairs = holdsPairs(file, formats);
  const droppable = letter === "A" || (letter === "B" && !has.includes("A") && pairs);
  const taken = new Set([slot.map, ...slot.segments.map((one) => one.map)]);
  const data = kinds.filter((one) => one.meaning === "data" && !taken.has(one.kind));
  return {
    slot,
    letter,
    droppable,
    sharers: data.map((one) => ({ value: one.kind, label: one.title })),
    multipliers: kinds
      .filter((one) => one.multiplies && one.kind !== slot.map)
      // Neutral multipliers first: occlusion, opacity.
      .sort((a, b) => (b.neutral[0] ?? 0) - (a.neutral[0] ?? 0))
      .map((one) => ({ value: one.kind, label: one.title.toLowerCase() })),
    others: has.filter((one) => one !== letter),
    onSlot: (next: Slot) => onChange((one) => withSlot(one, n, letter, next, formats)),
    onSwap: (other: Letter) => onChange((one) => swapped(one, n, letter, other, formats)),
    onRemove: () =>
      onChange((one) =>
        droppable
          ? withoutChannel(one, n, letter, formats)
          : withSlot(one, n, letter, EMPTY, formats),
      ),
  };
}
