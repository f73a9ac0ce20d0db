// Captures of a surface, each at its light's position on the hemisphere, seen from above.
import { useRef } from "react";
import type { CaptureSpec } from "@/api/client";
import { inWords, placeOf, type Towards, towardsOf, withAngles } from "./lights";

const CHIP = 26;
const RINGS = [30, 60];

interface Props {
  captures: readonly CaptureSpec[];
  /** Diameter in CSS pixels. */
  size: number;
  chosen?: string | undefined;
  onChoose?: (source: string) => void;
  /** Read-only without it. */
  onMove?: (source: string, to: Towards) => void;
  onCommit?: (source: string, to: Towards) => void;
}

export function LightDome({ captures, size, chosen, onChoose, onMove, onCommit }: Props) {
  const disc = useRef<HTMLDivElement>(null);
  const radius = size / 2 - CHIP / 2;
  const read = (event: React.PointerEvent): Towards => {
    const box = disc.current?.getBoundingClientRect();
    if (!box) return { azimuth: 0, elevation: 90 };
    return towardsOf([
      (event.clientX - box.left - size / 2) / radius,
      (event.clientY - box.top - size / 2) / radius,
    ]);
  };
  return (
    <div ref={disc} className="relative shrink-0" style={{ width: size, height: size }}>
      <svg viewBox={`0 0 ${size} ${size}`} className="absolute inset-0" aria-hidden="true">
        <circle cx={size / 2} cy={size / 2} r={radius} className="fill-sheet stroke-rule" />
        {RINGS.map((elevation) => (
          <circle
            key={elevation}
            cx={size / 2}
            cy={size / 2}
            r={radius * Math.cos((elevation * Math.PI) / 180)}
            className="fill-none stroke-rule"
            strokeDasharray="2 4"
          />
        ))}
        <rect
          x={size / 2 - 5}
          y={size / 2 - 5}
          width={10}
          height={10}
          className="fill-none stroke-second/60"
        />
        {captures.map((one) => {
          const [x, y] = placeOf(one.lamp);
          return (
            <line
              key={one.source}
              x1={size / 2 + x * radius}
              y1={size / 2 + y * radius}
              x2={size / 2}
              y2={size / 2}
              className={one.source === chosen ? "stroke-copper" : "stroke-rule"}
            />
          );
        })}
      </svg>
      {captures.map((one, n) => (
        <Chip
          key={one.source}
          capture={one}
          name={`Light of picture ${n + 1}`}
          at={placeOf(one.lamp).map((part) => size / 2 + part * radius) as [number, number]}
          chosen={one.source === chosen}
          read={read}
          onChoose={() => onChoose?.(one.source)}
          onMove={onMove && ((to) => onMove(one.source, to))}
          onCommit={onCommit && ((to) => onCommit(one.source, to))}
        />
      ))}
    </div>
  );
}

interface ChipProps {
  capture: CaptureSpec;
  name: string;
  at: [number, number];
  chosen: boolean;
  read: (event: React.PointerEvent) => Towards;
  onChoose: () => void;
  onMove: ((to: Towards) => void) | undefined;
  onCommit: ((to: Towards) => void) | undefined;
}

/** Round thumbnail of a capture at its light's position. */
function Chip({ capture, name, at, chosen, read, onChoose, onMove, onCommit }: ChipProps) {
  const held = useRef<{ x: number; y: number; moved: boolean } | null>(null);
  const picture = (
    <img
      src={`/api/v1/sources/${capture.source}/thumbnail.png`}
      alt=""
      draggable={false}
      className={`size-full rounded-full object-cover ${capture.used ? "" : "opacity-35 grayscale"}`}
    />
  );
  const look = `absolute -translate-1/2 rounded-full border-2 ${chosen ? "z-10 border-copper" : "border-card"} ${capture.used ? "" : "border-dashed border-second"}`;
  const style = { left: at[0], top: at[1], width: CHIP, height: CHIP };
  if (!onMove || !onCommit) {
    return (
      <span title={`${name}, ${inWords(capture.lamp)}`} className={look} style={style}>
        {picture}
      </span>
    );
  }
  return (
    <button
      type="button"
      role="slider"
      aria-label={name}
      aria-valuemin={0}
      aria-valuemax={360}
      aria-valuenow={capture.lamp.azimuth}
      aria-valuetext={`${inWords(capture.lamp)}${capture.used ? "" : ", excluded"}`}
      title={`${name}, ${inWords(capture.lamp)}: drag to set the light direction; arrow keys change azimuth and elevation`}
      className={`${look} cursor-grab touch-none active:cursor-grabbing`}
      style={style}
      onFocus={onChoose}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = { x: event.clientX, y: event.clientY, moved: false };
        onChoose();
      }}
      onPointerMove={(event) => {
        const { current } = held;
        if (!current) return;
        const far = Math.hypot(event.clientX - current.x, event.clientY - current.y);
        if (far > 3) current.moved = true;
        if (current.moved) onMove(read(event));
      }}
      onPointerUp={(event) => {
        if (held.current?.moved) onCommit(read(event));
        held.current = null;
      }}
      onPointerCancel={() => {
        held.current = null;
      }}
      onKeyDown={(event) => {
        const turn = {
          ArrowLeft: [5, 0],
          ArrowRight: [-5, 0],
          ArrowUp: [0, 2],
          ArrowDown: [0, -2],
        }[event.key];
        if (!turn) return;
        event.preventDefault();
        onCommit(
          withAngles(
            capture.lamp.azimuth + (turn[0] ?? 0),
            capture.lamp.elevation + (turn[1] ?? 0),
          ),
        );
      }}
    >
      {picture}
    </button>
  );
}
