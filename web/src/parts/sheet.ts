// Layout of UV tiles as in the core: 1001 is the first, ones go right, tens go up.
import type { Schemas } from "@/api/client";

type SheetRead = Schemas["SheetRead"];

export interface Sheet extends SheetRead {
  /** Number of the tile in a column and a row, both from the upper left. */
  numberAt: (column: number, row: number) => number;
}

const FIRST = 1001;
const ACROSS = 10;

/** Tile layout of a set from the API; null for a set without tiles. */
export function sheetFrom(layout: SheetRead | null): Sheet | null {
  if (!layout) return null;
  const { left, top } = layout;
  return { ...layout, numberAt: (column, row) => FIRST + left + column - ACROSS * (top + row) };
}

/** The smallest grid that contains these tiles; null for none. */
export function sheetOf(numbers: readonly number[]): Sheet | null {
  if (numbers.length === 0) return null;
  const sorted = [...new Set(numbers)].sort((a, b) => a - b);
  const columns = sorted.map((one) => (one - FIRST) % ACROSS);
  const rows = sorted.map((one) => -Math.floor((one - FIRST) / ACROSS));
  const [left, top] = [Math.min(...columns), Math.min(...rows)];
  return sheetFrom({
    numbers: sorted,
    left,
    top,
    columns: Math.max(...columns) - left + 1,
    rows: Math.max(...rows) - top + 1,
  });
}

/** The tile at a position of the sheet (fractions), and the position in the tile; rows go down. */
export function tileAt(sheet: Sheet, u: number, v: number) {
  const [column, row] = [Math.floor(u * sheet.columns), Math.floor(v * sheet.rows)];
  const number = sheet.numberAt(column, row);
  return { number, u: u * sheet.columns - column, v: v * sheet.rows - row };
}
