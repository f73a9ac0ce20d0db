// Cells of the delivery table: text, symbol and selection.
import { useMemo, useState } from "react";
import type { BoardCellRead, DiskStateRead, StaleFilesRead, TrayRow } from "@/api/client";
import { words } from "@/parts/format";

export type State =
  | "never"
  | "delivered"
  | "stale"
  | "wrong"
  | "waiting"
  | "running"
  | "failed"
  | "replaced"
  | "modified"
  | "missing";

export interface Cell {
  state: State;
  /** Text in the cell. */
  word: string;
  /** Tooltip text. */
  why: string;
  delivery: number | null;
}

/** A cell by set id and target id. */
export const keyOf = (set: number, target: string) => `${set}:${target}`;

export function partsOf(key: string): { set_id: number; target_id: string } {
  const at = key.indexOf(":");
  return { set_id: Number(key.slice(0, at)), target_id: key.slice(at + 1) };
}

const NEVER: Cell = { state: "never", word: "not delivered", why: "Not delivered", delivery: null };
const plain = {
  delivered: { word: "up to date", why: "Delivered and verified" },
  stale: { word: "stale", why: "Changed since the last delivery" },
  waiting: { word: "waiting", why: "Waiting for a worker" },
} as const;

/** State of the files on disk, if they differ from the delivery. */
const DISK_WORDS = {
  replaced: "replaced",
  modified: "modified outside",
  missing: "missing",
} as const;

/** State of an outdated cell: by its files, as soon as they have been compared. */
function staleOf(files: StaleFilesRead | undefined) {
  if (!files) return plain.stale;
  const of = `${files.of} ${files.of === 1 ? "file" : "files"}`;
  if (files.differ === 0)
    return { word: "stale, 0 files", why: `${plain.stale.why}; none of its ${of} would change` };
  const all = files.of === 1 ? "its file" : `all ${of}`;
  return {
    word: `stale, ${files.differ} ${files.differ === 1 ? "file" : "files"}`,
    why: `${plain.stale.why}; ${files.differ === files.of ? all : `${files.differ} of ${of}`} would change`,
  };
}

/** Errors of the set's checklist that affect the target; null without any. */
function wrongOf(row: Pick<TrayRow, "findings">, now: Cell): Cell | null {
  const grave = row.findings.filter((one) => one.weight === "error");
  if (grave.length === 0) return null;
  const findings = grave.map((one) => words(one.rule)).join(", ");
  const why = `${now.why}. Errors: ${findings}. See the checklist`;
  const word = now.state === "stale" ? `${now.word}, errors` : "errors";
  return { ...now, state: "wrong", word, why };
}

/**
 * State of a cell, in order of precedence: running delivery, changed files on disk, current errors,
 * outdated.
 */
export function cellOf(
  cell: BoardCellRead | undefined,
  lying: DiskStateRead | undefined,
  row: Pick<TrayRow, "findings">,
  files?: StaleFilesRead,
): Cell {
  if (!cell) return wrongOf(row, NEVER) ?? NEVER;
  const delivery = cell.delivery_id;
  switch (cell.state) {
    case "running":
      return {
        state: "running",
        word: `${Math.round(cell.progress * 100)} %`,
        why: `Delivery ${delivery} is running`,
        delivery,
      };
    case "failed":
      return {
        state: "failed",
        word: "failed",
        why: cell.error ?? "The delivery failed",
        delivery,
      };
    case "waiting":
      return { state: "waiting", ...plain.waiting, delivery };
    default:
  }
  if (lying && lying.disk_state !== "intact" && lying.disk_state !== "none")
    return {
      state: lying.disk_state,
      word: DISK_WORDS[lying.disk_state],
      why: lying.text,
      delivery,
    };
  if (cell.state === "delivered") return { state: "delivered", ...plain.delivered, delivery };
  const now: Cell = { state: "stale", ...staleOf(files), delivery };
  return wrongOf(row, now) ?? now;
}

/** Cells of a rectangle between two corners, in displayed order. */
export function rectangle(
  rows: readonly number[],
  targets: readonly string[],
  from: string,
  to: string,
): string[] {
  const [a, b] = [partsOf(from), partsOf(to)];
  const between = <T>(all: readonly T[], one: T, other: T) => {
    const [m, n] = [all.indexOf(one), all.indexOf(other)];
    return m < 0 || n < 0 ? [] : all.slice(Math.min(m, n), Math.max(m, n) + 1);
  };
  const across = between(targets, a.target_id, b.target_id);
  return between(rows, a.set_id, b.set_id).flatMap((set) => across.map((one) => keyOf(set, one)));
}

export interface SelectedCells {
  keys: ReadonlySet<string>;
  /** Toggle a cell; with `extend`, select the rectangle from the last toggled one. */
  choose: (key: string, extend: boolean) => void;
  /** Select cells, or deselect them if all are selected. */
  toggle: (keys: string[]) => void;
  put: (keys: Iterable<string>) => void;
}

export function useSelectedCells(
  rows: readonly number[],
  targets: readonly string[],
  first: () => string[],
): SelectedCells {
  const [{ keys, last }, set] = useState<{ keys: ReadonlySet<string>; last: string | null }>(
    () => ({ keys: new Set(first()), last: null }),
  );
  return useMemo(
    () => ({
      keys,
      choose: (key, extend) => {
        const next = new Set(keys);
        if (extend && last) for (const one of rectangle(rows, targets, last, key)) next.add(one);
        else if (!next.delete(key)) next.add(key);
        set({ keys: next, last: extend && last ? last : key }); // a rectangle keeps its start cell
      },
      toggle: (some) => {
        const next = new Set(keys);
        const all = some.every((one) => keys.has(one));
        for (const one of some) all ? next.delete(one) : next.add(one);
        set({ keys: next, last });
      },
      put: (some) => set({ keys: new Set(some), last }),
    }),
    [keys, last, rows, targets],
  );
}

/** Deleted sets and hidden targets are excluded. */
export function stillThere(
  keys: ReadonlySet<string>,
  rows: readonly TrayRow[],
  targets: readonly { id: string }[],
): string[] {
  const sets = new Set(rows.map((row) => row.id));
  const shown = new Set(targets.map((one) => one.id));
  return [...keys].filter((key) => {
    const { set_id, target_id } = partsOf(key);
    return sets.has(set_id) && shown.has(target_id);
  });
}
