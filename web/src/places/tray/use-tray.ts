// Visible sets of the list: filtered, sorted, grouped; stored in the address and remembered.
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import type { MapKind, TargetPreset, TrayRow } from "@/api/client";
import { queries } from "@/api/queries";
import { useRemembered } from "@/parts/remembered";
import {
  filterRows,
  type Grouping,
  grouped,
  groupings,
  type Order,
  ordered,
  orders,
} from "./filter";
import type { Arrangement } from "./filter-bar";

function one<T extends string>(known: readonly { value: T }[], wanted: string | null, usual: T): T {
  return known.find(({ value }) => value === wanted)?.value ?? usual;
}

export function useArrangement(project: string) {
  const [params, setParams] = useSearchParams();
  const [find, setFind] = useState(params.get("find") ?? "");
  const [order, setOrder] = useRemembered(`order/${project}`);
  const [grouping, setGrouping] = useRemembered(`groups/${project}`);
  const arrangement: Arrangement = {
    find,
    order: one<Order>(orders, order, "name"),
    grouping: one<Grouping>(groupings, grouping, "none"),
  };
  function arrange(change: Partial<Arrangement>) {
    if (change.find !== undefined) {
      setFind(change.find);
      const find = change.find;
      setParams(
        (before) => {
          if (find) before.set("find", find);
          else before.delete("find");
          return before;
        },
        { replace: true },
      );
    }
    if (change.order) setOrder(change.order);
    if (change.grouping) setGrouping(change.grouping);
  }
  return { arrangement, arrange };
}

/** Displayed groups of rows, and their sets from top to bottom. */
export function useShownRows(
  rows: TrayRow[],
  { find, order, grouping }: Arrangement,
  targets: TargetPreset[],
) {
  const text = useDeferredValue(find); // typing has priority
  const shown = useMemo(() => targets.map((target) => target.id), [targets]);
  const all = useMemo(() => ordered(rows, order, shown), [rows, order, shown]);
  const groups = useMemo(
    () => grouped(filterRows(all, text, shown), grouping),
    [all, text, shown, grouping],
  );
  const ids = useMemo(() => groups.flatMap((group) => group.rows.map((row) => row.id)), [groups]);
  return { groups, ids };
}

/** Name of a map kind. */
export function useTitles(): ReadonlyMap<MapKind, string> {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  return useMemo(
    () => new Map(vocabulary?.kinds.map((kind) => [kind.kind, kind.title])),
    [vocabulary],
  );
}

/** Map types that a set has, in displayed order. */
export function columnsOf(rows: readonly TrayRow[]): MapKind[] {
  return [...new Set(rows.flatMap((row) => Object.keys(row.maps) as MapKind[]))];
}
