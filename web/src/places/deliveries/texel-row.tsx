// States of one channel side by side, fitted or by texel, at the same position, with the values
// under the pointer.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import { type Texels, texels } from "@/api/client";
import { Segmented } from "@/parts/segmented";
import { PictureRow } from "./picture-row";
import { differenceOf, grey, pieceFor, readOut } from "./texels";

interface Props {
  /** Reduced pictures of the whole channel. */
  pictures: { title: string; picture: string }[];
  /** Base address of the excerpts. */
  address: string;
  /** Names of the states, in displayed order. */
  titles: Record<string, string>;
  /** The two states that are compared, and the amplification of their difference. */
  apart: [string, string];
  amplified: number;
}

const zooms = [
  { value: "fit", label: "Fit" },
  { value: "1", label: "1 : 1" },
  { value: "8", label: "8 : 1" },
] as const;

type Zoom = (typeof zooms)[number]["value"];
export type Place = { x: number; y: number };

export function TexelRow({ pictures, address, titles, apart, amplified }: Props) {
  const [zoom, setZoom] = useState<Zoom>("fit");
  const [center, setCenter] = useState<Place>({ x: 0.5, y: 0.5 });
  const [under, setUnder] = useState<Place | null>(null);
  const row = useRef<HTMLDivElement>(null);
  const [side, setSide] = useState(260);
  useEffect(() => {
    const element = row.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSide(Math.max(64, Math.floor(entry.contentRect.width / pictures.length) - 12));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [pictures.length]);
  const scale = zoom === "fit" ? 1 : Number(zoom) / devicePixelRatio;
  const shown = Math.ceil(side / scale);
  const size = useQuery({
    queryKey: ["texels", address, "size"],
    queryFn: ({ signal }) => texels(address, { left: 0, upper: 0, columns: 1, rows: 1 }, signal),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: zoom !== "fit",
  }).data;
  const piece = size ? pieceFor(size, center, shown) : null;
  const { data } = useQuery({
    queryKey: ["texels", address, piece],
    queryFn: ({ signal }) =>
      texels(address, piece ?? { left: 0, upper: 0, columns: 1, rows: 1 }, signal),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    enabled: piece !== null && zoom !== "fit",
  });
  const move = (event: PointerEvent<HTMLElement>) => {
    if (!size) return;
    if (event.buttons === 1) {
      setCenter((now) => ({
        x: clamp(now.x - event.movementX / scale / size.width),
        y: clamp(now.y - event.movementY / scale / size.height),
      }));
    }
    const box = event.currentTarget.getBoundingClientRect();
    const corner = { x: center.x * size.width - shown / 2, y: center.y * size.height - shown / 2 };
    setUnder({
      x: Math.floor(corner.x + (event.clientX - box.left) / scale),
      y: Math.floor(corner.y + (event.clientY - box.top) / scale),
    });
  };
  const states = Object.keys(titles).filter((name) => data?.values[name]);
  return (
    <div ref={row}>
      <div className="mb-2 flex items-center gap-3">
        <Segmented label="Size" value={zoom} options={zooms} onChange={setZoom} />
        <p className="text-small text-second figures" aria-live="polite" data-testid="under">
          {zoom === "fit"
            ? "select 1:1 or 8:1 to read single texels"
            : data && under
              ? readOut(data, under, titles)
              : "drag to pan; values under the pointer appear here"}
        </p>
      </div>
      {zoom === "fit" ? (
        <PictureRow pictures={pictures} />
      ) : (
        <div className="flex gap-3">
          {data &&
            [...states, "difference"].map((name) => (
              <figure key={name} className="min-w-0 flex-1">
                <Piece
                  of={data}
                  values={name === "difference" ? differenceOf(data, apart, amplified) : undefined}
                  name={name}
                  place={{ center, shown, side }}
                  title={titles[name] ?? `difference × ${amplified}`}
                  onMove={move}
                  onLeave={() => setUnder(null)}
                />
                <figcaption className="pt-1 text-list text-second">
                  {titles[name] ?? `difference × ${amplified}`}
                </figcaption>
              </figure>
            ))}
        </div>
      )}
    </div>
  );
}

function clamp(value: number): number {
  return Math.min(1, Math.max(0, value));
}

interface PieceProps {
  of: Texels;
  name: string;
  /** Alternative text. */
  values: Float32Array | undefined;
  place: { center: Place; shown: number; side: number };
  title: string;
  onMove: (event: PointerEvent<HTMLElement>) => void;
  onLeave: () => void;
}

function Piece({ of, name, values, place, title, onMove, onLeave }: PieceProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { center, shown, side } = place;
  const shownValues = values ?? of.values[name];
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !shownValues) return;
    context.clearRect(0, 0, shown, shown);
    const picture = new ImageData(
      grey(shownValues, values || name === "map" ? null : of.top),
      of.columns,
      of.rows,
    );
    const left = of.left - Math.round(center.x * of.width - shown / 2);
    const upper = of.upper - Math.round(center.y * of.height - shown / 2);
    context.putImageData(picture, left, upper);
  }, [shownValues, values, name, of, center, shown]);
  return (
    <canvas
      ref={canvas}
      width={shown}
      height={shown}
      role="img"
      aria-label={title}
      style={{ width: side, height: side }}
      className="max-w-full cursor-grab touch-none rounded-sm bg-ground [image-rendering:pixelated] active:cursor-grabbing"
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={onMove}
      onPointerLeave={onLeave}
    />
  );
}
