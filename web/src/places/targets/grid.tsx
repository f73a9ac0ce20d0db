// The packing grid: rows are maps and their components, columns the channels of the files.
import { Plus } from "lucide-react";
import type { KindRead, Schemas, TargetPreset } from "@/api/client";
import { Crossing } from "./crossing";
import { FileFoot } from "./file-foot";
import type { Format } from "./file-settings";
import {
  connected,
  EMPTY,
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

interface Props {
  preset: TargetPreset;
  rows: Row[];
  kinds: KindRead[];
  formats: Format[];
  /** Maps that the chosen set has. */
  present: Set<string>;
  /** Those that came in packed, and the channel in which they lay. */
  packed: Map<string, string>;
  trial: Schemas["TrialRead"] | undefined;
  locked: boolean;
  onChange: (change: Change) => void;
}

/** The arrow keys go from crossing to crossing. */
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

/** Wide enough for the files' facts, and for a grid that fills the page where there are few. */
function columnWidth(files: number): number {
  return Math.max(41, Math.min(56, Math.floor((innerWidth - 290) / (files * 4))));
}

export function PackingGrid(props: Props) {
  const { preset, rows, kinds, formats, present, packed, trial, locked, onChange } = props;
  const titleOf = (kind: string) => kinds.find((one) => one.kind === kind)?.title ?? kind;
  const files = preset.files.map((file, n) => ({ file, n }));
  const width = columnWidth(files.length);
  // A file that the set does not get is not among those that were tried.
  const triedOf = (suffix: string, n: number) =>
    trial?.files.find((one) => one.suffix === suffix) ??
    (trial?.files.length === preset.files.length ? trial.files[n] : undefined);
  return (
    <table className="border-collapse text-[13px]" onKeyDown={walk}>
      <thead>
        <tr>
          <td className="sticky left-0 z-10 min-w-[172px] bg-card" />
          {files.map(({ file, n }) => (
            <th
              key={`${file.suffix}-${n}`}
              colSpan={4}
              className="border-l border-rule bg-sheet px-2 py-1 text-left font-semibold"
            >
              {file.suffix || file.name}
            </th>
          ))}
          {!locked && (
            <th rowSpan={2} className="border-l border-rule px-2">
              <button
                type="button"
                className="inline-flex items-center gap-1 text-second hover:text-ink"
                onClick={() => onChange((one) => withNewFile(one, formats))}
              >
                <Plus className="size-4" aria-hidden="true" /> File
              </button>
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
      <tbody>
        {rows.map((row, r) => (
          <tr
            key={`${row.kind}-${row.component}`}
            className={row.first ? "border-t border-rule" : undefined}
          >
            <th className="sticky left-0 z-10 bg-card pr-2 pl-3 text-left font-normal">
              <span className="flex items-baseline justify-between gap-2">
                <span
                  className={`whitespace-nowrap ${row.first ? "font-medium" : "invisible"} ${present.has(row.kind) ? "" : "text-second italic"}`}
                  title={present.has(row.kind) ? undefined : "not in the set"}
                >
                  {titleOf(row.kind)}
                </span>
                <span className="text-second figures">
                  {packed.has(row.kind) && (
                    <span title="came in packed, in this channel">from {packed.get(row.kind)}</span>
                  )}
                  {row.label}
                </span>
              </span>
            </th>
            {files.flatMap(({ file, n }) =>
              LETTERS.map((letter, c) => (
                <td
                  key={`${n}-${letter}`}
                  className={`p-0 text-center ${letter === "R" ? "border-l border-rule" : ""}`}
                >
                  <Crossing
                    {...crossingOf(file.channels[letter], letter, n)}
                    label={`${titleOf(row.kind)}${row.label ? ` ${row.label}` : ""} in ${letter} of ${file.suffix || file.name}`}
                    hold={holds(file.channels[letter], row)}
                    place={`${r}:${n * 4 + c}`}
                    onConnect={() => onChange((one) => connected(one, n, letter, row, formats))}
                  />
                </td>
              )),
            )}
          </tr>
        ))}
        <tr className="border-t border-rule">
          <th className="sticky left-0 z-10 bg-card pl-3 text-left font-medium">One value</th>
          {files.flatMap(({ file, n }) =>
            LETTERS.map((letter, c) => {
              const slot = file.channels[letter];
              const constant = slot?.constant ?? null;
              return (
                <td
                  key={`${n}-${letter}`}
                  className={`relative p-0 text-center ${letter === "R" ? "border-l border-rule" : ""}`}
                >
                  <Crossing
                    {...crossingOf(slot, letter, n)}
                    label={`One value in ${letter} of ${file.suffix || file.name}`}
                    hold={constant === null ? "none" : "plain"}
                    place={`${rows.length}:${n * 4 + c}`}
                    onConnect={() => onChange((one) => withSlot(one, n, letter, EMPTY, formats))}
                  />
                  {constant !== null && (
                    <span className="pointer-events-none absolute right-0.5 bottom-0 text-[10.5px] text-second figures">
                      {Number(constant.toFixed(2))}
                    </span>
                  )}
                </td>
              );
            }),
          )}
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
                  locked || files.length === 1 ? null : () => onChange((one) => withoutFile(one, n))
                }
              />
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );

  function crossingOf(slot: Schemas["Slot"] | undefined, letter: Letter, n: number) {
    const has = Object.keys(preset.files[n]?.channels ?? {}) as Letter[];
    const file = preset.files[n];
    const pairs = file !== undefined && holdsPairs(file, formats);
    const droppable = letter === "A" || (letter === "B" && !has.includes("A") && pairs);
    const taken = new Set(slot ? [slot.map, ...slot.segments.map((one) => one.map)] : []);
    const data = kinds.filter((one) => one.meaning === "data" && !taken.has(one.kind));
    return {
      slot,
      letter,
      locked,
      droppable,
      sharers: data.map((one) => ({ value: one.kind, label: one.title })),
      multipliers: kinds
        .filter((one) => one.multiplies && one.kind !== slot?.map)
        // First what leaves all as it is where nothing hides it: occlusion, opacity.
        .sort((a, b) => (b.neutral[0] ?? 0) - (a.neutral[0] ?? 0))
        .map((one) => ({ value: one.kind, label: one.title.toLowerCase() })),
      others: slot ? has.filter((one) => one !== letter) : [],
      onSlot: (next: Schemas["Slot"]) => onChange((one) => withSlot(one, n, letter, next, formats)),
      onSwap: (other: Letter) => onChange((one) => swapped(one, n, letter, other, formats)),
      onRemove: () =>
        onChange((one) =>
          droppable
            ? withoutChannel(one, n, letter, formats)
            : withSlot(one, n, letter, EMPTY, formats),
        ),
    };
  }
}
