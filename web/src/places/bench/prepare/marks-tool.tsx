// Blemish markers: freehand outlines, or a round spot with a click.
import { useRef, useState } from "react";
import { pathOf, type ToolProps } from "./frame-tools";
import { middleOf, outlineOf, type Place, preparing, simplified, spot, within } from "./preparing";

const MOST_PLACES = 400;
const MOST_MARKS = 50;
const STEP = 0.01;
/** A stroke below this length in screen pixels is a click. */
const CLICK = 8;

export function MarksTool({
  prepare,
  lay,
  onCommit,
  radius,
}: ToolProps & { /** Radius of a spot as a fraction of the picture's width. */ radius: number }) {
  const { marks } = prepare;
  const [line, setLine] = useState<Place[]>([]);
  const [aim, setAim] = useState<Place>([0.5, 0.5]);
  const [focused, setFocused] = useState(false);
  const frame = useRef<HTMLButtonElement>(null);
  const aspect = lay.width / lay.height;
  const put = (outline: Place[]) => {
    const there = marks.some((mark) => JSON.stringify(mark.outline) === JSON.stringify(outline));
    if (outline.length < 3 || marks.length >= MOST_MARKS || there) return;
    onCommit(preparing({ marks: [...marks, { outline }] }));
  };
  const placeOf = (event: React.PointerEvent): Place => {
    const box = event.currentTarget.getBoundingClientRect();
    return within([(event.clientX - box.left) / lay.width, (event.clientY - box.top) / lay.height]);
  };
  const drawn = line.reduce((all, place, n) => {
    const last = line[n - 1] ?? place;
    return all + Math.hypot((place[0] - last[0]) * lay.width, (place[1] - last[1]) * lay.height);
  }, 0);
  return (
    <>
      <button
        ref={frame}
        type="button"
        aria-label="Source picture: draw around a blemish, or click to mark a round spot; arrow keys and Enter do the same"
        className="absolute cursor-crosshair touch-none"
        style={{ left: lay.left, top: lay.top, width: lay.width, height: lay.height }}
        onFocus={(event) => setFocused(event.currentTarget.matches(":focus-visible"))}
        onBlur={() => setFocused(false)}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setLine([placeOf(event)]);
        }}
        onPointerMove={(event) => {
          if (line.length === 0) return;
          const place = placeOf(event);
          setLine((old) => [...old, place]);
        }}
        onPointerUp={(event) => {
          const place = placeOf(event);
          setLine([]);
          if (drawn < CLICK) put(spot(place, radius, aspect));
          else put(simplified([...line, place], 2 / lay.width, MOST_PLACES));
        }}
        onKeyDown={(event) => {
          const turn = {
            ArrowLeft: [-1, 0],
            ArrowRight: [1, 0],
            ArrowUp: [0, -1],
            ArrowDown: [0, 1],
          }[event.key];
          if (turn) {
            event.preventDefault();
            setFocused(true);
            const step = STEP * (event.shiftKey ? 5 : 1);
            setAim(([x, y]) => within([x + (turn[0] ?? 0) * step, y + (turn[1] ?? 0) * step]));
          }
          if (event.key === "Enter") {
            event.preventDefault();
            put(spot(aim, radius, aspect));
          }
        }}
      />
      <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
        {marks.map((mark) => (
          <g key={JSON.stringify(mark.outline)}>
            <path
              d={pathOf(outlineOf(mark), lay)}
              strokeWidth={3}
              className="fill-none stroke-ink/60"
            />
            <path
              d={pathOf(outlineOf(mark), lay)}
              strokeWidth={1.5}
              className="fill-copper/25 stroke-card"
            />
          </g>
        ))}
        {line.length > 1 && (
          <path d={pathOf(line, lay)} strokeWidth={1.5} className="fill-copper/25 stroke-copper" />
        )}
        {focused && (
          <path
            d={pathOf(spot(aim, radius, aspect), lay)}
            strokeWidth={1.5}
            strokeDasharray="4 3"
            className="fill-none stroke-card"
          />
        )}
      </svg>
      {marks.map((mark, n) => {
        const [x, y] = middleOf(outlineOf(mark));
        return (
          <button
            key={JSON.stringify(mark.outline)}
            type="button"
            aria-label={`Remove mark ${n + 1}`}
            title="Remove mark"
            className="absolute z-10 grid size-5 -translate-1/2 place-items-center rounded-full bg-ink/85 text-note text-sheet figures hover:bg-wrong"
            style={{ left: lay.left + x * lay.width, top: lay.top + y * lay.height }}
            onClick={() => onCommit(preparing({ marks: marks.filter((_, i) => i !== n) }))}
          >
            {n + 1}
          </button>
        );
      })}
    </>
  );
}
