// Excerpts of a channel: which to request, how to draw them, and reading values.
import type { Texels } from "@/api/client";

const STEP = 64; // texels: excerpts start at multiples of it, so that panning requests rarely
const MOST = 1024;

/** The excerpt around a position (fractions of the channel), with a margin. */
export function pieceFor(
  { width, height }: { width: number; height: number },
  center: { x: number; y: number },
  shown: number,
): { left: number; upper: number; columns: number; rows: number } {
  const along = (share: number, all: number) => {
    const first = Math.max(0, Math.floor((share * all - shown / 2) / STEP) * STEP);
    const last = Math.min(all, Math.ceil((share * all + shown / 2) / STEP) * STEP);
    return [Math.min(first, all - 1), Math.min(MOST, Math.max(1, last - first))] as const;
  };
  const [left, columns] = along(center.x, width);
  const [upper, rows] = along(center.y, height);
  return { left, upper, columns, rows };
}

/** Values as a gray picture; top is the code of white, null if 1 is white. */
export function grey(values: Float32Array, top: number | null): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(values.length * 4);
  const factor = 255 / (top ?? 1);
  values.forEach((value, n) => {
    out.fill(value * factor, 4 * n, 4 * n + 3);
    out[4 * n + 3] = 255;
  });
  return out;
}

/** Difference of two states, amplified, in [0, 1]. */
export function differenceOf(
  { values, top }: Pick<Texels, "values" | "top">,
  [one, other]: [string, string],
  amplified: number,
): Float32Array {
  const a = values[one] ?? new Float32Array();
  const b = values[other] ?? new Float32Array();
  return a.map((value, n) => Math.min(1, (Math.abs(value - (b[n] ?? 0)) * amplified) / (top ?? 1)));
}

/** Values of every state at a texel: codes, except for the map, which is a stored value. */
export function readOut(
  of: Pick<Texels, "left" | "upper" | "columns" | "rows" | "top" | "values">,
  { x, y }: { x: number; y: number },
  titles: Record<string, string>,
): string {
  const [column, row] = [x - of.left, y - of.upper];
  if (column < 0 || row < 0 || column >= of.columns || row >= of.rows) return `${x}, ${y}: outside`;
  const at = row * of.columns + column;
  const parts = Object.entries(titles).flatMap(([name, title]) => {
    const value = of.values[name]?.[at];
    if (value === undefined) return [];
    const code = of.top !== null && name !== "map";
    return [`${title} ${code ? value.toFixed(0) : value.toFixed(4)}`];
  });
  return `${x}, ${y}: ${parts.join(" · ")}`;
}
