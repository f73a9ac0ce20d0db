// Delivery table: a row per set, a column per target, a cell with the delivery state.
import { useVirtualizer } from "@tanstack/react-virtual";
import { FolderCog, RefreshCw } from "lucide-react";
import { memo, useCallback, useRef } from "react";
import type {
  BoardCellRead,
  DiskStateRead,
  StaleFilesRead,
  TargetPreset,
  TrayRow,
} from "@/api/client";
import { focusOnceDrawn, MapGap } from "@/parts/long-table";
import { useLatest } from "@/parts/use-latest";
import type { AutoDeliverRule } from "./auto-deliver";
import { type Cell, cellOf, keyOf, type SelectedCells, type State } from "./cells";

const ROW = 34;

interface Props {
  rows: TrayRow[];
  targets: TargetPreset[];
  cells: ReadonlyMap<string, BoardCellRead>;
  lying: ReadonlyMap<string, DiskStateRead>;
  staleFiles: ReadonlyMap<string, StaleFilesRead>;
  chosen: SelectedCells;
  /** Targets with a destination other than the default. */
  chosenPlaces: ReadonlySet<string>;
  kept: AutoDeliverRule;
  onKeep: (target: string, kept: boolean) => void;
  onSeen: (ids: number[]) => void;
  onPlace: (target: string) => void;
}

export const Board = memo(function Board(props: Props) {
  const { rows, targets, cells, chosen, chosenPlaces, kept, onKeep, onSeen, onPlace } = props;
  const scroller = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    getItemKey: (index) => rows[index]?.id ?? index,
    overscan: 6,
    onChange: ({ isScrolling, range }) => {
      if (range && !isScrolling)
        onSeen(rows.slice(range.startIndex, range.endIndex + 1).map((row) => row.id));
    },
  });
  const latest = useLatest({ rows, targets, chosen, virtual });
  const onStep = useCallback(
    (row: number, column: number, [down, right]: readonly [number, number], extend: boolean) => {
      const now = latest.current;
      const [r, c] = [row + down, column + right];
      const [set, target] = [now.rows[r], now.targets[c]];
      if (!set || !target) return;
      if (extend) now.chosen.choose(keyOf(set.id, target.id), true);
      now.virtual.scrollToIndex(r, { align: "auto" });
      focusOnceDrawn(scroller.current, `[data-cell="${r}/${c}"]`);
    },
    [latest],
  );
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <section
      ref={scroller}
      aria-label="Board"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, also by keys
      tabIndex={0}
      className="min-h-32 overflow-auto rounded-md border border-rule bg-card"
    >
      <table className="w-full border-collapse" aria-rowcount={rows.length + 1}>
        <thead className="sticky top-0 z-10">
          <tr className="h-8 bg-sheet text-small text-second shadow-[0_1px_0_var(--color-rule)]">
            <th className="min-w-64 px-3 text-left font-medium">Texture set</th>
            {targets.map((target) => (
              <ColumnHead
                key={target.id}
                target={target}
                kept={kept.column(target.id)}
                elsewhere={chosenPlaces.has(target.id)}
                onChoose={() => chosen.toggle(rows.map((row) => keyOf(row.id, target.id)))}
                onKeep={() => onKeep(target.id, !kept.column(target.id))}
                onPlace={() => onPlace(target.id)}
              />
            ))}
            <td className="w-full" />
          </tr>
        </thead>
        <tbody>
          <MapGap height={above} across={targets.length + 2} />
          {items.map((item) => {
            const row = rows[item.index];
            if (!row) return null;
            return (
              <tr key={row.id} className="h-8.5 border-b border-rule">
                <th scope="row" className="px-1 text-left font-medium">
                  <button
                    type="button"
                    aria-label={`Select all cells of ${row.name}`}
                    className="h-7 w-full max-w-80 truncate rounded-sm px-2 text-left hover:bg-sheet"
                    onClick={() => chosen.toggle(targets.map((one) => keyOf(row.id, one.id)))}
                  >
                    {row.name}
                  </button>
                </th>
                {targets.map((target, column) => {
                  const key = keyOf(row.id, target.id);
                  return (
                    <td key={target.id} className="p-0.5">
                      <CellButton
                        cell={cellOf(
                          cells.get(key),
                          props.lying.get(key),
                          row,
                          props.staleFiles.get(key),
                        )}
                        label={`${row.name} for ${target.title}`}
                        chosen={chosen.keys.has(key)}
                        kept={kept.keeps(row.id, target.id, cells.has(key))}
                        place={`${item.index}/${column}`}
                        onChoose={(extend) => chosen.choose(key, extend)}
                        onStep={(by, extend) => onStep(item.index, column, by, extend)}
                      />
                    </td>
                  );
                })}
              </tr>
            );
          })}
          <MapGap height={below} across={targets.length + 2} />
        </tbody>
      </table>
    </section>
  );
});

interface ColumnHeadProps {
  target: TargetPreset;
  kept: boolean;
  elsewhere: boolean;
  onChoose: () => void;
  onKeep: () => void;
  onPlace: () => void;
}

/** Column header of a target: a click selects its cells; with auto-deliver and destination. */
function ColumnHead({ target, kept, elsewhere, onChoose, onKeep, onPlace }: ColumnHeadProps) {
  return (
    <th className="group min-w-32 px-1 font-medium">
      <span className="flex items-center">
        <button
          type="button"
          aria-label={`Select all cells of ${target.title}`}
          title={target.note}
          className="h-7 w-full rounded-sm px-1 whitespace-nowrap hover:bg-card hover:text-ink"
          onClick={onChoose}
        >
          {target.title}
        </button>
        <button
          type="button"
          aria-pressed={kept}
          aria-label={`Auto-deliver ${target.title}`}
          title={`Auto-deliver ${target.title} for every set on change`}
          className="rounded-sm px-1 py-0.5 hover:text-copper aria-pressed:bg-verdigris-pale aria-pressed:text-verdigris"
          onClick={onKeep}
        >
          <RefreshCw className="size-3.5" aria-hidden="true" />
        </button>
        <button
          type="button"
          aria-label={`Destination of ${target.title}`}
          title={`Destination and overrides of ${target.title}`}
          className={`px-1 hover:text-copper ${elsewhere ? "text-copper" : ""}`}
          onClick={onPlace}
        >
          <FolderCog className="size-4" aria-hidden="true" />
        </button>
      </span>
    </th>
  );
}

/** Each state has its own symbol, color and word. */
const looks: Record<State, { sign: string; look: string }> = {
  never: { sign: "·", look: "text-second" },
  delivered: { sign: "✓", look: "text-verdigris" },
  stale: { sign: "◷", look: "text-ink italic" },
  wrong: { sign: "△", look: "text-wrong" },
  waiting: { sign: "…", look: "text-second" },
  running: { sign: "▸", look: "text-verdigris" },
  failed: { sign: "✕", look: "text-wrong font-medium" },
  replaced: { sign: "!", look: "text-ochre" },
  modified: { sign: "!", look: "text-ochre" },
  missing: { sign: "!", look: "text-ochre" },
};

const STEPS: Record<string, readonly [number, number]> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
};

interface CellProps {
  cell: Cell;
  label: string;
  chosen: boolean;
  /** Delivered automatically. */
  kept: boolean;
  place: string;
  onChoose: (extend: boolean) => void;
  onStep: (by: readonly [number, number], extend: boolean) => void;
}

function CellButton({ cell, label, chosen, kept, place, onChoose, onStep }: CellProps) {
  const { sign, look } = looks[cell.state];
  const box = chosen
    ? "border-copper bg-copper-pale"
    : "border-transparent hover:border-rule hover:bg-sheet";
  return (
    <button
      type="button"
      data-cell={place}
      aria-pressed={chosen}
      aria-label={`${label}: ${cell.word}${kept ? ", auto-delivered" : ""}`}
      title={kept ? `${cell.why}; auto-delivered` : cell.why}
      className={`flex h-7 w-full items-center justify-center gap-1.5 rounded-sm border text-list ${box} ${look}`}
      onClick={(event) => onChoose(event.shiftKey)}
      onKeyDown={(event) => {
        const by = STEPS[event.key];
        if (!by) return;
        event.preventDefault();
        onStep(by, event.shiftKey);
      }}
    >
      <span aria-hidden="true">{sign}</span>
      <span className="figures">{cell.word}</span>
      {kept && <RefreshCw className="size-3 text-verdigris" aria-hidden="true" />}
    </button>
  );
}
