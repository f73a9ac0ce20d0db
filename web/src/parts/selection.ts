// Selection of rows: one, a range, all.
import { useMemo, useRef, useState } from "react";
import { useLatest } from "./use-latest";

export interface Chosen {
  ids: ReadonlySet<number>;
  /** Toggle a row; with `extend`, select the range from the last toggled one. */
  choose: (id: number, extend: boolean) => void;
  chooseAll: (ids: readonly number[], chosen: boolean) => void;
  clear: () => void;
}

/** Rows between two rows, both included, in displayed order. */
export function rangeOf(order: readonly number[], from: number, to: number): number[] {
  const [a, b] = [order.indexOf(from), order.indexOf(to)];
  return a < 0 || b < 0 ? [to] : order.slice(Math.min(a, b), Math.max(a, b) + 1);
}

/** `order` : the displayed rows from top to bottom */
export function useSelection(order: readonly number[]): Chosen {
  const [ids, setIds] = useState<ReadonlySet<number>>(new Set());
  const last = useRef<number | null>(null);
  const latest = useLatest(order);
  const acts = useMemo<Omit<Chosen, "ids">>(
    () => ({
      choose: (id, extend) => {
        const from = last.current;
        last.current = id;
        setIds((before) => {
          const after = new Set(before);
          if (extend && from !== null)
            for (const one of rangeOf(latest.current, from, id)) after.add(one);
          else if (!after.delete(id)) after.add(id);
          return after;
        });
      },
      chooseAll: (some, chosen) =>
        setIds((before) => {
          const after = new Set(before);
          for (const id of some) chosen ? after.add(id) : after.delete(id);
          return after;
        }),
      clear: () => setIds(new Set()),
    }),
    [latest],
  );
  return useMemo(() => ({ ids, ...acts }), [ids, acts]);
}
