// Virtualized table of sets.
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useCallback, useMemo, useRef } from "react";
import type { MapKind, TargetPreset } from "@/api/client";
import { maskKind } from "@/parts/kinds";
import { focusOnceDrawn, MapGap } from "@/parts/long-table";
import type { Chosen } from "@/parts/selection";
import { useLatest } from "@/parts/use-latest";
import type { Group } from "./filter";
import { ROW, type RowProps, SetRow } from "./set-row";

const TITLE = 32;

interface Props extends Pick<RowProps, "columns" | "targets" | "project" | "titles"> {
  groups: Group[];
  chosen: Chosen;
}

type Line = { title: string; ids: number[] } | { row: RowProps["row"] };

export const SetsTable = memo(function SetsTable(props: Props) {
  const { groups, chosen, columns, targets, project, titles } = props;
  const scroller = useRef<HTMLElement>(null);
  const lines = useMemo(() => linesOf(groups), [groups]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => ("row" in (lines[index] ?? {}) ? ROW : TITLE),
    getItemKey: (index) => keyOf(lines[index]),
    overscan: 4,
  });
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const latest = useLatest({ lines, chosen, virtual });
  const onChoose = useCallback(
    (id: number, extend: boolean) => latest.current.chosen.choose(id, extend),
    [latest],
  );
  const onStep = useCallback(
    (id: number, by: number, extend: boolean) => {
      const { lines: all, chosen: now, virtual: list } = latest.current;
      let next = all.findIndex((one) => "row" in one && one.row.id === id) + by;
      while (all[next] && !("row" in (all[next] as Line))) next += by;
      const line = all[next];
      if (!line || !("row" in line)) return;
      if (extend) now.chooseAll([id, line.row.id], true);
      list.scrollToIndex(next, { align: "auto" });
      focusOnceDrawn(scroller.current, `[data-row="${line.row.id}"]`);
    },
    [latest],
  );
  const across = 1 + columns.length + targets.length;
  return (
    <section
      ref={scroller}
      aria-label="Texture sets"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, also by keys
      tabIndex={0}
      className="min-h-40 overflow-auto rounded-md border border-rule bg-card"
    >
      <table className="w-full border-collapse" aria-rowcount={lines.length + 1}>
        <Heads {...{ groups, chosen, columns, targets, titles }} />
        <tbody>
          <MapGap height={above} across={across} />
          {items.map((item) => {
            const line = lines[item.index];
            if (!line) return null;
            if (!("row" in line))
              return <GroupTitle key={item.key} across={across} chosen={chosen} {...line} />;
            return (
              <SetRow
                key={item.key}
                row={line.row}
                chosen={chosen.ids.has(line.row.id)}
                {...{ columns, targets, project, titles, onChoose, onStep }}
              />
            );
          })}
          <MapGap height={below} across={across} />
        </tbody>
      </table>
    </section>
  );
});

function linesOf(groups: Group[]): Line[] {
  return groups.flatMap(({ title, rows }): Line[] => [
    ...(title ? [{ title, ids: rows.map((row) => row.id) }] : []),
    ...rows.map((row) => ({ row })),
  ]);
}

function keyOf(line: Line | undefined): string | number {
  if (!line) return "";
  return "row" in line ? line.row.id : `group ${line.title}`;
}

interface HeadsProps {
  groups: Group[];
  chosen: Chosen;
  columns: MapKind[];
  targets: TargetPreset[];
  titles: ReadonlyMap<MapKind, string>;
}

function Heads({ groups, chosen, columns, targets, titles }: HeadsProps) {
  const ids = useMemo(() => groups.flatMap(({ rows }) => rows.map((row) => row.id)), [groups]);
  return (
    <thead className="sticky top-0 z-10">
      <tr className="h-8 bg-sheet text-small text-second shadow-[0_1px_0_var(--color-rule)]">
        <th className="min-w-72 px-3 text-left font-medium">
          <span className="flex items-center gap-2.5">
            <AllBox ids={ids} chosen={chosen} label="Select all displayed sets" />
            Texture set
          </span>
        </th>
        {columns.map((kind) => (
          <th key={kind} className="w-19.5 px-1 font-medium">
            {titles.get(kind) ?? maskKind(kind).title}
          </th>
        ))}
        {targets.map((target) => (
          <th key={target.id} className="min-w-28 px-2 font-medium" title={target.note}>
            {target.title}
          </th>
        ))}
      </tr>
    </thead>
  );
}

interface AllBoxProps {
  ids: number[];
  chosen: Chosen;
  label: string;
}

/** Selects all rows of a group, or none. */
function AllBox({ ids, chosen, label }: AllBoxProps) {
  const count = ids.filter((id) => chosen.ids.has(id)).length;
  const all = ids.length > 0 && count === ids.length;
  return (
    <input
      type="checkbox"
      className="size-4 accent-copper"
      aria-label={label}
      checked={all}
      ref={(box) => {
        if (box) box.indeterminate = count > 0 && !all;
      }}
      onChange={() => chosen.chooseAll(ids, !all)}
    />
  );
}

interface TitleProps extends Omit<AllBoxProps, "label"> {
  title: string;
  across: number;
}

function GroupTitle({ title, ids, across, chosen }: TitleProps) {
  return (
    <tr className="h-8 border-b border-rule bg-paper/60">
      <th scope="rowgroup" colSpan={across} className="px-3 text-left font-medium">
        <span className="flex items-center gap-2.5">
          <AllBox ids={ids} chosen={chosen} label={`Select all of ${title}`} />
          {title}
          <span className="font-normal text-second figures">{ids.length}</span>
        </span>
      </th>
    </tr>
  );
}
