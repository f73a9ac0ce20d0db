// Choosing some rows of a list: one, a range from the last one, all.
import { useMemo, useRef, useState } from "react";
import { useLatest } from "./latest";

export interface Chosen {
  ids: ReadonlySet<number>;
  /** Choose a row or leave it; with `extend`, all from the last one that was touched. */
  choose: (id: number, extend: boolean) => void;
  chooseAll: (ids: readonly number[], chosen: boolean) => void;
  clear: () => void;
}

/** The rows from one to another, both of them, in the order that is shown. */
export function rangeOf(order: readonly number[], from: number, to: number): number[] {
  const [a, b] = [order.indexOf(from), order.indexOf(to)];
  return a < 0 || b < 0 ? [to] : order.slice(Math.min(a, b), Math.max(a, b) + 1);
}

/** `order` : the displayed rows from top to bottom */
export function useChosen(order: readonly number[]): Chosen {
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
