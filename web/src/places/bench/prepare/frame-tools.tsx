// Overlay tools: the four corners of a true rectangle, the crop, the ruler.
import { useRef } from "react";
import type { Preparation } from "@/api/client";
import type { Shown } from "../picture-cache";
import type { Change } from "../use-draft";
import { Handle, type Lay } from "./handle";
import {
  areConvex,
  type Corners,
  cropMoved,
  cropOf,
  cropWith,
  framing,
  PICTURE_CORNERS,
  type Place,
  preparing,
  WHOLE,
  within,
} from "./preparing";

export interface ToolProps {
  prepare: Preparation;
  lay: Lay;
  shown: Shown;
  /** A change during a drag, and its end. */
  onMove: (change: Change) => void;
  onCommit: (change?: Change) => void;
}

const cornerNames = [
  "Top left corner",
  "Top right corner",
  "Bottom right corner",
  "Bottom left corner",
];

/** Points of the picture as an SVG path. */
export function pathOf(places: readonly (readonly [number, number])[], lay: Lay): string {
  const at = places.map(([x, y]) => `${lay.left + x * lay.width},${lay.top + y * lay.height}`);
  return `M${at.join("L")}Z`;
}

function Veil({ inside, lay }: { inside: readonly (readonly [number, number])[]; lay: Lay }) {
  const whole = pathOf(PICTURE_CORNERS, lay);
  const kept = pathOf(inside, lay);
  return (
    <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
      <path d={whole + kept} fillRule="evenodd" className="fill-ink/45" />
      <path d={kept} fill="none" strokeWidth={3} className="stroke-ink/50" />
      <path d={kept} fill="none" strokeWidth={1.5} className="stroke-card" />
    </svg>
  );
}

export function CornersTool({ prepare, lay, shown, onMove, onCommit }: ToolProps) {
  const corners = (prepare.frame.corners ?? PICTURE_CORNERS) as Corners;
  return (
    <>
      <Veil inside={corners} lay={lay} />
      {cornerNames.map((name, n) => (
        <Handle
          key={name}
          label={name}
          place={corners[n] as Place}
          lay={lay}
          shown={shown}
          onMove={(place) => {
            const next = corners.map((corner, i) => (i === n ? within(place) : corner)) as Corners;
            if (areConvex(next)) onMove(framing({ corners: next }));
          }}
          onCommit={onCommit}
        />
      ))}
    </>
  );
}

export function CropTool({ prepare, lay, shown, onMove, onCommit }: ToolProps) {
  const crop = cropOf(prepare.frame);
  const [left, top, right, bottom] = crop;
  const places: Place[] = [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ];
  const start = useRef<{ x: number; y: number; crop: typeof crop } | null>(null);
  return (
    <>
      <Veil inside={places} lay={lay} />
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the corners and numbers do the same by keys */}
      <div
        className="absolute cursor-move touch-none"
        title="Drag to move the crop"
        style={{
          left: lay.left + left * lay.width,
          top: lay.top + top * lay.height,
          width: (right - left) * lay.width,
          height: (bottom - top) * lay.height,
        }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          start.current = { x: event.clientX, y: event.clientY, crop };
        }}
        onPointerMove={(event) => {
          const { current: from } = start;
          if (!from) return;
          const dx = (event.clientX - from.x) / lay.width;
          const dy = (event.clientY - from.y) / lay.height;
          onMove(framing({ crop: cropMoved(from.crop, dx, dy) }));
        }}
        onPointerUp={() => {
          const moved = start.current && String(start.current.crop) !== String(crop);
          start.current = null;
          if (moved) onCommit();
        }}
        onDoubleClick={() => onCommit(framing({ crop: WHOLE }))}
      />
      {cornerNames.map((name, n) => (
        <Handle
          key={name}
          label={name.replace("corner", "of the crop")}
          place={places[n] as Place}
          lay={lay}
          shown={shown}
          onMove={(place) => onMove(framing({ crop: cropWith(crop, n, place) }))}
          onCommit={onCommit}
        />
      ))}
    </>
  );
}

export function RulerTool({ prepare, lay, shown, onMove, onCommit }: ToolProps) {
  const { ruler } = prepare;
  if (!ruler) return null;
  const at = ([x, y]: readonly [number, number]): Place => [
    lay.left + x * lay.width,
    lay.top + y * lay.height,
  ];
  const ends = { start: ruler.start as Place, end: ruler.end as Place };
  const [a, b] = [at(ends.start), at(ends.end)];
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
        {["stroke-ink/60", "stroke-card"].map((stroke, n) => (
          <line
            key={stroke}
            x1={a[0]}
            y1={a[1]}
            x2={b[0]}
            y2={b[1]}
            strokeWidth={n ? 1.5 : 4}
            className={stroke}
          />
        ))}
      </svg>
      <span
        className="pointer-events-none absolute -translate-1/2 rounded-sm bg-ink/85 px-1.5 text-small text-sheet figures"
        style={{ left: (a[0] + b[0]) / 2, top: (a[1] + b[1]) / 2 + 16 }}
      >
        {ruler.metres} m
      </span>
      {(["start", "end"] as const).map((end) => (
        <Handle
          key={end}
          label={end === "start" ? "First end of the ruler" : "Second end of the ruler"}
          place={ends[end]}
          lay={lay}
          shown={shown}
          onMove={(place) => {
            const next = { ...ends, [end]: within(place) };
            const length = Math.hypot(next.end[0] - next.start[0], next.end[1] - next.start[1]);
            if (length > 0.006) onMove(preparing({ ruler: { ...ruler, ...next } }));
          }}
          onCommit={onCommit}
        />
      ))}
    </>
  );
}
