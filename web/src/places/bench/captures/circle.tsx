// A draggable circle on the captures, visible on any background. Values are fractions of the width.
import type { Lay } from "../prepare/handle";

interface Props {
  lay: Lay;
  x: number;
  y: number;
  radius: number;
  /** Tooltip of the circle. */
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
