// Miniature tile layout of a set: existing tiles filled, gaps outlined.
import { sheetOf } from "./sheet";

const CELL = 9;
const GAP = 2;

export function TileGrid({ numbers }: { numbers: readonly number[] }) {
  const sheet = sheetOf(numbers);
  if (!sheet) return null;
  const there = new Set(sheet.numbers);
  const cells = Array.from({ length: sheet.columns * sheet.rows }, (_, n) => {
    const [column, row] = [n % sheet.columns, Math.floor(n / sheet.columns)];
    return { column, row, number: sheet.numberAt(column, row) };
  });
  return (
    <svg
      role="img"
      className="shrink-0"
      aria-label={`tiles ${sheet.numbers.join(", ")}`}
      width={sheet.columns * (CELL + GAP)}
      height={sheet.rows * (CELL + GAP)}
    >
      {cells.map(({ column, row, number }) => (
        <rect
          key={number}
          x={column * (CELL + GAP) + 0.5}
          y={row * (CELL + GAP) + 0.5}
          width={CELL}
          height={CELL}
          rx={1.5}
          className={there.has(number) ? "fill-copper stroke-copper" : "fill-none stroke-rule"}
        >
          <title>{there.has(number) ? number : `tile ${number} is missing`}</title>
        </rect>
      ))}
    </svg>
  );
}
