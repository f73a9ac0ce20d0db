// Lines between the tiles of a set, and their numbers.
import type { Sheet } from "@/parts/sheet";
import type { View } from "./use-view";

interface Props {
  sheet: Sheet;
  view: View;
  /** Map size in texels. */
  width: number;
  height: number;
}

export function TileLines({ sheet, view, width, height }: Props) {
  const across = (width * view.scale) / sheet.columns;
  const down = (height * view.scale) / sheet.rows;
  const there = new Set(sheet.numbers);
  const places = Array.from({ length: sheet.columns * sheet.rows }, (_, n) => ({
    column: n % sheet.columns,
    row: Math.floor(n / sheet.columns),
  }));
  return (
    <div
      data-testid="tiles"
      aria-hidden="true"
      className="pointer-events-none absolute inset-0 overflow-hidden"
    >
      {places.map(({ column, row }) => {
        const number = sheet.numberAt(column, row);
        return (
          <span
            key={number}
            className={`absolute border-sheet/50 ${column > 0 ? "border-l" : ""} ${row > 0 ? "border-t" : ""} ${there.has(number) ? "" : "hatched"}`}
            style={{
              left: view.left + column * across,
              top: view.top + row * down,
              width: across,
              height: down,
            }}
          >
            <span className="absolute right-1 bottom-1 rounded-sm bg-ink/85 px-1 text-tiny text-sheet figures">
              {there.has(number) ? number : `${number} is missing`}
            </span>
          </span>
        );
      })}
    </div>
  );
}
