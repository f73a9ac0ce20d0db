// A point on the picture that is dragged, or moved with the arrow keys; a magnifier shows it.
import { useEffect, useRef, useState } from "react";
import type { Shown } from "../picture-cache";
import type { Place } from "./preparing";

/** Placement of the picture in the window, in CSS pixels. */
export interface Lay {
  left: number;
  top: number;
  width: number;
  height: number;
}

const STEP = 0.002;
const COARSE = 10;
const LOUPE = { side: 116, zoom: 5 };

interface Props {
  label: string;
  place: Place;
  lay: Lay;
  shown: Shown;
  onMove: (place: Place) => void;
  onCommit: () => void;
}

export function Handle({ label, place, lay, shown, onMove, onCommit }: Props) {
  const [held, setHeld] = useState(false);
  const start = useRef({ x: 0, y: 0, place });
  const [x, y] = place;
  // Moved with keys: saved when the key is released.
  const nudged = useRef(false);
  function letGo() {
    if (nudged.current) onCommit();
    nudged.current = false;
  }
  return (
    <>
      {held && <Loupe place={place} lay={lay} shown={shown} />}
      <button
        type="button"
        aria-label={label}
        aria-description={`${(x * 100).toFixed(1)} % from the left, ${(y * 100).toFixed(1)} % from the top; arrow keys move it`}
        title={label}
        className="absolute z-10 grid size-7 -translate-1/2 cursor-grab touch-none place-items-center rounded-full active:cursor-grabbing"
        style={{ left: lay.left + x * lay.width, top: lay.top + y * lay.height }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          start.current = { x: event.clientX, y: event.clientY, place };
          setHeld(true);
        }}
        onPointerMove={(event) => {
          if (!held) return;
          const { current: from } = start;
          onMove([
            from.place[0] + (event.clientX - from.x) / lay.width,
            from.place[1] + (event.clientY - from.y) / lay.height,
          ]);
        }}
        onPointerUp={() => {
          setHeld(false);
          const moved = start.current.place !== place;
          if (moved) onCommit();
        }}
        onKeyDown={(event) => {
          const turn = {
            ArrowLeft: [-1, 0],
            ArrowRight: [1, 0],
            ArrowUp: [0, -1],
            ArrowDown: [0, 1],
          }[event.key];
          if (!turn) return;
          event.preventDefault();
          const step = STEP * (event.shiftKey ? COARSE : 1);
          nudged.current = true;
          onMove([x + (turn[0] ?? 0) * step, y + (turn[1] ?? 0) * step]);
        }}
        onKeyUp={letGo}
        onBlur={letGo}
      >
        <span className="size-3.5 rounded-full border-2 border-card bg-copper outline outline-ink/60" />
      </button>
    </>
  );
}

/** Magnified area around a point, in the opposite corner. */
function Loupe({ place, lay, shown }: Pick<Props, "place" | "lay" | "shown">) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [x, y] = place;
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) return;
    const { picture } = shown;
    const scale = lay.width / picture.width;
    const span = LOUPE.side / (scale * LOUPE.zoom);
    context.fillStyle = "#3c3c3c";
    context.fillRect(0, 0, LOUPE.side, LOUPE.side);
    context.imageSmoothingEnabled = false;
    const [column, row] = [x * picture.width - span / 2, y * picture.height - span / 2];
    context.drawImage(picture, column, row, span, span, 0, 0, LOUPE.side, LOUPE.side);
  }, [x, y, lay, shown]);
  return (
    <div
      aria-hidden="true"
      className={`pointer-events-none absolute bottom-2.5 z-20 overflow-hidden rounded-full border-2 border-card outline outline-ink/60 ${x < 0.5 ? "right-2.5" : "left-2.5"}`}
    >
      <canvas ref={canvas} width={LOUPE.side} height={LOUPE.side} className="block" />
      <span className="absolute inset-x-0 top-1/2 h-px bg-copper" />
      <span className="absolute inset-y-0 left-1/2 w-px bg-copper" />
    </div>
  );
}
