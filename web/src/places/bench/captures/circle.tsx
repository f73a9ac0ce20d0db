// A circle on the pictures: light on dark, seen on anything. Its measures are shares of their width.
import type { Lay } from "../prepare/handle";

interface Props {
  lay: Lay;
  x: number;
  y: number;
  radius: number;
  /** Of its line. */
  className: string;
}

const LEAST = 10;

export function Circle({ lay, x, y, radius, className }: Props) {
  return (
    <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
      {["stroke-ink/60", className].map((stroke, n) => (
        <circle
          key={stroke}
          cx={lay.left + x * lay.width}
          cy={lay.top + y * lay.width}
          r={Math.max(radius * lay.width, LEAST)}
          strokeWidth={n ? 1.5 : 4}
          className={`fill-none ${stroke}`}
        />
      ))}
    </svg>
  );
}
