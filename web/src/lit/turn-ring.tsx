// A ring around the lamp control that rotates the environment.
import { useRef } from "react";

const SIZE = 72;
const RADIUS = 32;
/** Degrees per key press. */
export const TURN = 15;

interface Props {
  turn: number;
  onTurn: (turn: number) => void;
}

/** Degrees from -180 to 180. */
export function turned(degrees: number): number {
  return ((((Math.round(degrees) + 180) % 360) + 360) % 360) - 180;
}

export function TurnRing({ turn, onTurn }: Props) {
  const ring = useRef<HTMLDivElement>(null);
  const before = useRef(0);
  function angleOf(event: React.PointerEvent): number {
    const box = ring.current?.getBoundingClientRect();
    if (!box) return 0;
    const right = event.clientX - box.left - SIZE / 2;
    const down = event.clientY - box.top - SIZE / 2;
    return (Math.atan2(right, -down) * 180) / Math.PI;
  }
  const angle = (turn * Math.PI) / 180;
  const [x, y] = [SIZE / 2 + RADIUS * Math.sin(angle), SIZE / 2 - RADIUS * Math.cos(angle)];
  return (
    <div
      ref={ring}
      role="slider"
      tabIndex={0}
      aria-label="Environment rotation"
      aria-valuenow={turn}
      aria-valuemin={-180}
      aria-valuemax={180}
      aria-valuetext={`${turn}°`}
      title="Drag the ring, or press [ and ], to rotate the environment; double-click to reset"
      className="absolute right-px bottom-px touch-none rounded-full"
      style={{ width: SIZE, height: SIZE }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        before.current = angleOf(event) - turn;
      }}
      onPointerMove={(event) => event.buttons && onTurn(turned(angleOf(event) - before.current))}
      onDoubleClick={() => onTurn(0)}
      onKeyDown={(event) => {
        const step = { ArrowLeft: -5, ArrowDown: -5, ArrowRight: 5, ArrowUp: 5 }[event.key];
        if (!step) return;
        event.preventDefault();
        onTurn(turned(turn + step));
      }}
    >
      <svg className="size-full" aria-hidden="true">
        <circle
          cx={SIZE / 2}
          cy={SIZE / 2}
          r={RADIUS}
          className="fill-none stroke-ink/60"
          strokeWidth="6"
        />
        <circle cx={x} cy={y} r="4" className="fill-sheet stroke-ink" />
      </svg>
    </div>
  );
}
