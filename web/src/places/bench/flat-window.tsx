// Flat view: fitted, 1:1 or 8:1, single, repeated or compared with another map or its first state;
// single channels; value under the pointer.
import { type RefObject, useEffect, useMemo, useRef, useState } from "react";
import type { KindRead, SurfaceSpec } from "@/api/client";
import { useCommands } from "@/parts/commands";
import { PictureDivider } from "@/parts/divider";
import { following } from "@/parts/options";
import { type Sheet, tileAt } from "@/parts/sheet";
import {
  type Channel,
  channels,
  type Layout,
  LayoutTools,
  layouts,
  ZoomTools,
  zooms,
} from "./flat-tools";
import { Histogram } from "./histogram";
import { IslandLayer, type IslandsOfSet, IslandTools } from "./islands/island-layer";
import { useIslandView } from "./islands/use-island-view";
import type { Shown } from "./picture-cache";
import { meaningOf, type Texel } from "./readout";
import { TileLines } from "./tile-lines";
import { colorAt } from "./use-pick";
import { useView, type View } from "./use-view";
import { type Waiting, waitingText } from "./use-waiting";

/** Right side of a comparison: another map, or the initial state of this one. */
export interface Other {
  value: string;
  label: string;
  shown: Shown;
}

/** The color picker is active; its source picture is shown instead of the map. */
export interface PickFrom {
  shown: Shown | undefined;
  label: string;
  onColor: (color: string) => void;
}

interface Props {
  shown: Shown | undefined;
  pick: PickFrom | null;
  /** Width in texels at rest; smaller while dragging. */
  fullWidth: number;
  /** Increases when the picture should be shown as a tile. */
  tiling: number;
  others: Other[];
  /** UV outline of the linked model. */
  islands: IslandsOfSet | null;
  /** Arrangement of the set's tiles in the picture. */
  sheet: Sheet | null;
  kind: KindRead;
  surface: SurfaceSpec;
  settled: boolean;
  /** Progress and cancel button of a long preview. */
  waiting: Waiting;
  /** Number of the displayed draft, for the performance marks. */
  shows: number;
  /** Called with the number of the displayed draft. */
  onPainted: (number: number) => void;
  /** Called with the length of the picture's longer side in screen pixels. */
  seenSide: RefObject<number>;
}

/** Pixels reserved below a fitted map for an overlay. */
const FOOT = 42;

/** Displayed image: the picture, or one channel as gray. */
function useDrawn(shown: Shown | undefined, channel: Channel): OffscreenCanvas | undefined {
  return useMemo(() => {
    if (!shown || channel === "all") return shown?.picture;
    const { width, height, data } = shown.codes;
    const single = new ImageData(width, height);
    const offset = Number(channel);
    for (let i = 0; i < data.length; i += 4) {
      const value = data[i + offset] ?? 0;
      single.data.set([value, value, value, 255], i);
    }
    const picture = new OffscreenCanvas(width, height);
    picture.getContext("2d", { willReadFrequently: true })?.putImageData(single, 0, 0);
    return picture;
  }, [shown, channel]);
}

export function FlatWindow(props: Props) {
  const { pick, fullWidth, tiling, others, islands, kind, settled, seenSide } = props;
  const shown = pick ? pick.shown : props.shown;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [layout, setLayout] = useState<Layout>("1");
  const [channel, setChannel] = useState<Channel>("all");
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null);
  const [counted, setCounted] = useState(false);
  const [against, setAgainst] = useState("before");
  const [wipe, setWipe] = useState(0.5);
  useEffect(() => {
    if (tiling > 0) setLayout((now) => (now === "3" ? now : "2"));
  }, [tiling]);
  const single = kind.meaning === "data";
  const drawn = useDrawn(shown, single || pick ? "all" : channel);
  const repeat = layout === "wipe" || pick ? 1 : Number(layout);
  const other = others.find((one) => one.value === against) ?? others[0];
  const wiped = layout === "wipe" && !pick ? other : undefined;
  const texels = { width: drawn?.width ?? 1, height: drawn?.height ?? 1 };
  const width = fullWidth;
  const height = Math.max(1, Math.round((fullWidth * texels.height) / texels.width));
  const { view, zoom, setZoom, moveBy } = useView(
    canvas,
    { width, height },
    repeat,
    islands ? FOOT : 0,
  );
  useEffect(() => {
    seenSide.current = Math.max(width, height) * view.scale * devicePixelRatio;
  });
  useDrawing(canvas, { ...props, drawn, view, repeat, width, height, wiped, wipe });
  useFlatCommands({ setLayout, setZoom, setChannel, setCounted });
  const over = useIslandView(islands, { view, width, height });
  const reading =
    shown && pointer ? readAt(pointer, view, { width, height, repeat }, shown, props) : null;

  function takeColor(event: React.MouseEvent<HTMLCanvasElement>) {
    if (!pick || !shown) return;
    const box = event.currentTarget.getBoundingClientRect();
    const across = (event.clientX - box.left - view.left) / (width * view.scale);
    const down = (event.clientY - box.top - view.top) / (height * view.scale);
    if (across < 0 || across >= 1 || down < 0 || down >= 1) return;
    const [c, r] = [Math.floor(across * texels.width), Math.floor(down * texels.height)];
    pick.onColor(colorAt(shown.codes, c, r));
  }

  return (
    <section
      aria-label="Flat view"
      className="relative size-full overflow-hidden rounded-sm bg-ground"
    >
      <canvas
        ref={canvas}
        data-testid="flat"
        data-key={shown?.key}
        data-settled={settled}
        role="img"
        aria-label={pick ? `Pick from ${pick.label}` : `${kind.title}, flat view`}
        className={`absolute inset-0 size-full touch-none ${pick ? "cursor-crosshair" : ""}`}
        onClick={takeColor}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const at = { x: event.clientX - box.left, y: event.clientY - box.top };
          setPointer(at);
          over.point(at);
          if (event.buttons) moveBy(event.movementX, event.movementY);
        }}
        onPointerLeave={() => {
          setPointer(null);
          over.point(null);
        }}
      />
      {props.sheet && repeat === 1 && (
        <TileLines {...{ sheet: props.sheet, view, width, height }} />
      )}
      {islands && over.shows !== "off" && (
        <IslandLayer {...{ islands, view, width, height }} shows={over.shows} />
      )}
      {islands && !pick && <IslandTools value={over.shows} onChange={over.show} />}
      {wiped && (
        <PictureDivider share={wipe} left={kind.title} right={wiped.label} onMove={setWipe} />
      )}
      {counted && shown && !pick && <Histogram shown={shown} kind={kind} channel={channel} />}
      {pick ? (
        <p className="absolute top-2.5 left-2.5 rounded-sm bg-copper px-2.5 py-1 text-white">
          Click in {pick.label.toLowerCase()} to pick a color · Esc to stop
        </p>
      ) : (
        <LayoutTools
          layout={layout}
          onLayout={setLayout}
          wiped={wiped}
          others={others}
          onAgainst={setAgainst}
          channel={single ? null : channel}
          onChannel={setChannel}
        />
      )}
      <ZoomTools
        zoom={zoom}
        onZoom={(next) => setZoom(() => next)}
        counted={counted}
        onCounted={setCounted}
      />
      <Waits waiting={props.waiting} />
      <output className="absolute bottom-2.5 left-2.5 whitespace-pre rounded-sm bg-ink/85 px-2 py-0.5 text-sheet figures">
        {reading ?? (drawn ? `${texels.width} × ${texels.height} shown` : "computing…")}
      </output>
    </section>
  );
}

/** Long computation: its progress, remaining time and cancel button. */
function Waits({ waiting }: { waiting: Waiting }) {
  const { underWay, stopped, stop, again } = waiting;
  if (!underWay && !stopped) return null;
  return (
    <div
      role="status"
      className="absolute bottom-10 left-2.5 flex items-center gap-2.5 rounded-sm bg-ink/85 px-2 py-1 text-small text-sheet"
    >
      {stopped ? "Stopped. The preview is out of date" : underWay && waitingText(underWay)}
      <button
        type="button"
        className="underline underline-offset-2"
        onClick={stopped ? again : stop}
      >
        {stopped ? "Resume" : "Stop"}
      </button>
    </div>
  );
}

interface Drawing extends Props {
  drawn: OffscreenCanvas | undefined;
  view: View;
  repeat: number;
  width: number;
  height: number;
  wiped: Other | undefined;
  wipe: number;
}

/** Draw the picture at its position, repeated if set; the other picture right of the divider. */
function useDrawing(canvas: RefObject<HTMLCanvasElement | null>, given: Drawing) {
  const { drawn, view, repeat, width, height, wiped, wipe, shows, onPainted } = given;
  const { left, top, scale } = view;
  useEffect(() => {
    const context = canvas.current?.getContext("2d", { willReadFrequently: true });
    if (!canvas.current || !context || !drawn) return;
    const density = devicePixelRatio;
    canvas.current.width = Math.round(view.width * density);
    canvas.current.height = Math.round(view.height * density);
    context.setTransform(density, 0, 0, density, 0, 0);
    context.imageSmoothingEnabled = scale * density < 0.999;
    context.imageSmoothingQuality = "medium";
    for (let row = 0; row < repeat; row++)
      for (let column = 0; column < repeat; column++)
        context.drawImage(
          drawn,
          left + column * width * scale,
          top + row * height * scale,
          width * scale,
          height * scale,
        );
    if (wiped) {
      const edge = Math.round(view.width * wipe);
      context.save();
      context.beginPath();
      context.rect(edge, 0, view.width - edge, view.height);
      context.clip();
      context.drawImage(wiped.shown.picture, left, top, width * scale, height * scale);
      context.restore();
    }
    performance.mark("sieve:flat", { detail: shows });
    onPainted(shows);
  }, [
    canvas,
    shows,
    drawn,
    view.width,
    view.height,
    scale,
    left,
    top,
    repeat,
    width,
    height,
    wiped,
    wipe,
    onPainted,
  ]);
}

interface FlatCommands {
  setLayout: (change: (now: Layout) => Layout) => void;
  setZoom: ReturnType<typeof useView>["setZoom"];
  setChannel: (change: (now: Channel) => Channel) => void;
  setCounted: (change: (now: boolean) => boolean) => void;
}

function useFlatCommands({ setLayout, setZoom, setChannel, setCounted }: FlatCommands) {
  useCommands([
    {
      id: "flat-layout",
      label: "Flat view: single, tiled, compare",
      keys: "t",
      run: () => setLayout((now) => following(layouts, now)),
    },
    {
      id: "flat-zoom",
      label: "Flat view: fit, 1:1, 8:1",
      keys: "z",
      run: () => setZoom((now) => following(zooms, now)),
    },
    {
      id: "flat-channel",
      label: "Flat view: all channels, R, G, B",
      keys: "c",
      run: () => setChannel((now) => following(channels, now)),
    },
    {
      id: "flat-histogram",
      label: "Flat view: histogram",
      keys: "h",
      run: () => setCounted((now) => !now),
    },
  ]);
}

interface At {
  column: number;
  row: number;
  width: number;
  height: number;
}

/** Texels from the left and the top; for a set with tiles, those of the tile after its number. */
function placeInWords(sheet: Sheet | null, { column, row, width, height }: At): string {
  if (!sheet) return `${column}, ${row}`;
  const { number, u, v } = tileAt(sheet, column / width, row / height);
  const [x, y] = [(u * width) / sheet.columns, (v * height) / sheet.rows];
  return `${number}: ${Math.round(x)}, ${Math.round(y)}`;
}

/** Description of the texel under the pointer: position, codes and meaning; null outside. */
function readAt(
  pointer: { x: number; y: number },
  view: View,
  { width, height, repeat }: { width: number; height: number; repeat: number },
  shown: Shown,
  { pick, kind, surface, sheet }: Props,
): string | null {
  const column = Math.floor((pointer.x - view.left) / view.scale);
  const row = Math.floor((pointer.y - view.top) / view.scale);
  if (column < 0 || row < 0 || column >= width * repeat || row >= height * repeat) return null;
  const share = shown.picture.width / width;
  const [across, down] = [Math.floor((column % width) * share), Math.floor((row % height) * share)];
  const at = (down * shown.picture.width + across) * 4;
  const [r = 0, g = 0, b = 0] = shown.codes.data.slice(at, at + 3);
  const texel: Texel = [r, g, b];
  const value = kind.meaning === "data" && !pick ? r : texel.join(" ");
  const meant = pick ? "" : meaningOf(kind, texel, surface.depth ?? 0);
  const where = placeInWords(sheet, { column: column % width, row: row % height, width, height });
  return `${where}   ${value}   ${meant}`;
}
