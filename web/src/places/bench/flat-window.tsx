// The map flat: whole or 1:1 or 8:1, single, repeated or wiped against another map or what it was;
// one channel; the value under the pointer.
import { BarChart3 } from "lucide-react";
import { type RefObject, useEffect, useMemo, useRef, useState } from "react";
import type { KindRead, SurfaceSpec } from "@/api/client";
import { Choice } from "@/parts/choice";
import { useCommands } from "@/parts/commands";
import { following } from "@/parts/options";
import { Segmented } from "@/parts/segmented";
import { Wipe } from "@/parts/wipe";
import { Histogram } from "./histogram";
import { meaningOf, type Texel } from "./readout";
import type { Shown } from "./shown";
import { colorAt } from "./use-pick";

const zooms = [
  { value: "fit", label: "Fit" },
  { value: "1", label: "1 : 1" },
  { value: "8", label: "8 : 1" },
] as const;
/** Pixels at the top that the controls cover: a picture as a whole lies below them. */
const TOOLS = 46;
const layouts = [
  { value: "1", label: "One" },
  { value: "2", label: "Tiled 2×2" },
  { value: "3", label: "3×3" },
  { value: "wipe", label: "Wipe" },
] as const;
const channels = [
  { value: "all", label: "RGB" },
  { value: "0", label: "R" },
  { value: "1", label: "G" },
  { value: "2", label: "B" },
] as const;

type Zoom = (typeof zooms)[number]["value"];
type Layout = (typeof layouts)[number]["value"];
type Channel = (typeof channels)[number]["value"];

/** What a wipe can show on its right: another map, or this one as it was at first. */
export interface Other {
  value: string;
  label: string;
  shown: Shown;
}

/** Colors are being picked from a picture, which is shown instead of the map. */
export interface PickFrom {
  shown: Shown | undefined;
  label: string;
  onColor: (color: string) => void;
}

interface Props {
  shown: Shown | undefined;
  pick: PickFrom | null;
  /** Texels across at rest; while a hand moves, pictures may come smaller. */
  fullWidth: number;
  /** Grows when the picture is to be looked at as a tile. */
  tiling: number;
  others: Other[];
  kind: KindRead;
  surface: SurfaceSpec;
  settled: boolean;
  /** The number of the draft that is shown, for the performance marks. */
  shows: number;
  /** Told which draft the window shows now. */
  onPainted: (number: number) => void;
  /** Told how many pixels of the screen the picture's longer side takes. */
  seenSide: RefObject<number>;
}

/** What is drawn: the picture itself, or one channel of it as grey. */
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
  const { pick, fullWidth, tiling, others, kind, surface, settled, shows, seenSide, onPainted } =
    props;
  const shown = pick ? pick.shown : props.shown;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [zoom, setZoom] = useState<Zoom>("fit");
  const [layout, setLayout] = useState<Layout>("1");
  const [channel, setChannel] = useState<Channel>("all");
  useEffect(() => {
    if (tiling > 0) setLayout((now) => (now === "3" ? now : "2"));
  }, [tiling]);
  const [pan, setPan] = useState({ x: 0, y: 0 });
  const [view, setView] = useState({ width: 600, height: 400 });
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null);
  const single = kind.meaning === "data";
  const drawn = useDrawn(shown, single || pick ? "all" : channel);
  const repeat = layout === "wipe" || pick ? 1 : Number(layout);
  const [counted, setCounted] = useState(false);
  const [against, setAgainst] = useState("before");
  const [wipe, setWipe] = useState(0.5);
  const other = others.find((one) => one.value === against) ?? others[0];
  const wiped = layout === "wipe" && !pick ? other : undefined;
  useCommands([
    {
      id: "flat-layout",
      label: "Flat window: one, tiled, wipe",
      keys: "t",
      run: () => setLayout((now) => following(layouts, now)),
    },
    {
      id: "flat-zoom",
      label: "Flat window: fit, 1 : 1, 8 : 1",
      keys: "z",
      run: () => {
        setZoom((now) => following(zooms, now));
        setPan({ x: 0, y: 0 });
      },
    },
    {
      id: "flat-channel",
      label: "Flat window: all channels, R, G, B",
      keys: "c",
      run: () => setChannel((now) => following(channels, now)),
    },
    {
      id: "flat-histogram",
      label: "Flat window: histogram",
      keys: "h",
      run: () => setCounted((now) => !now),
    },
  ]);

  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setView({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const texels = { width: drawn?.width ?? 1, height: drawn?.height ?? 1 };
  const width = fullWidth;
  const height = Math.max(1, Math.round((fullWidth * texels.height) / texels.width));
  const density = devicePixelRatio;
  const below = zoom === "fit" ? TOOLS : 0;
  const free = Math.max(view.height - below, 1);
  const fit = Math.min(view.width / (width * repeat), free / (height * repeat));
  // 1 : 1 is one texel on one pixel of the screen, whatever the screen's density.
  const scale = zoom === "fit" ? fit : Number(zoom) / density;
  const left = (view.width - width * repeat * scale) / 2 + (zoom === "fit" ? 0 : pan.x);
  const top =
    below + (view.height - below - height * repeat * scale) / 2 + (zoom === "fit" ? 0 : pan.y);

  seenSide.current = Math.max(width, height) * scale * density;

  useEffect(() => {
    const context = canvas.current?.getContext("2d", { willReadFrequently: true });
    if (!canvas.current || !context || !drawn) return;
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
  }, [shows, drawn, view, scale, left, top, repeat, width, height, wiped, wipe, onPainted]);

  const column = pointer ? Math.floor((pointer.x - left) / scale) : -1;
  const row = pointer ? Math.floor((pointer.y - top) / scale) : -1;
  const inside =
    shown && column >= 0 && row >= 0 && column < width * repeat && row < height * repeat;
  let reading = null;
  if (inside) {
    const share = texels.width / width;
    const at =
      (Math.floor((row % height) * share) * texels.width + Math.floor((column % width) * share)) *
      4;
    const [r = 0, g = 0, b = 0] = shown.codes.data.slice(at, at + 3);
    const texel: Texel = [r, g, b];
    const meant = pick ? "" : meaningOf(kind, texel, surface.depth ?? 0);
    const said = single && !pick ? r : texel.join(" ");
    reading = `${column % width}, ${row % height}   ${said}   ${meant}`;
  }

  return (
    <section
      aria-label="Flat window"
      className="relative size-full overflow-hidden rounded-sm bg-ground"
    >
      <canvas
        ref={canvas}
        data-testid="flat"
        data-key={shown?.key}
        data-settled={settled}
        role="img"
        aria-label={pick ? `Pick from ${pick.label}` : `${kind.title}, flat`}
        className={`absolute inset-0 size-full touch-none ${pick ? "cursor-crosshair" : ""}`}
        onClick={(event) => {
          if (!pick || !shown) return;
          const box = event.currentTarget.getBoundingClientRect();
          const across = (event.clientX - box.left - left) / (width * scale);
          const down = (event.clientY - box.top - top) / (height * scale);
          if (across < 0 || across >= 1 || down < 0 || down >= 1) return;
          const [c, r] = [Math.floor(across * texels.width), Math.floor(down * texels.height)];
          pick.onColor(colorAt(shown.codes, c, r));
        }}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          setPointer({ x: event.clientX - box.left, y: event.clientY - box.top });
          if (event.buttons && zoom !== "fit")
            setPan((p) => ({ x: p.x + event.movementX, y: p.y + event.movementY }));
        }}
        onPointerLeave={() => setPointer(null)}
      />
      {wiped && <Wipe share={wipe} left={kind.title} right={wiped.label} onMove={setWipe} />}
      {counted && shown && !pick && <Histogram shown={shown} kind={kind} channel={channel} />}
      {pick && (
        <p className="absolute top-2.5 left-2.5 rounded-sm bg-copper px-2.5 py-1 text-white">
          Click in {pick.label.toLowerCase()} to pick · Esc ends
        </p>
      )}
      <div hidden={pick !== null} className="absolute left-2.5 top-2.5 flex gap-2">
        <Segmented label="Layout" value={layout} options={layouts} onChange={setLayout} />
        {wiped && (
          <span className="w-32">
            <Choice label="Against" value={wiped.value} options={others} onChange={setAgainst} />
          </span>
        )}
        {!single && !wiped && (
          <Segmented label="Channel" value={channel} options={channels} onChange={setChannel} />
        )}
      </div>
      <div className="absolute right-2.5 top-2.5 flex gap-2">
        <button
          type="button"
          aria-pressed={counted}
          aria-label="Histogram"
          title="Histogram (H)"
          onClick={() => setCounted(!counted)}
          className="grid size-[26px] place-items-center rounded-sm border border-rule bg-sheet hover:bg-card aria-pressed:bg-ink aria-pressed:text-sheet"
        >
          <BarChart3 className="size-4" aria-hidden="true" />
        </button>
        <Segmented
          label="Zoom"
          value={zoom}
          options={zooms}
          onChange={(next) => {
            setZoom(next);
            setPan({ x: 0, y: 0 });
          }}
        />
      </div>
      <output className="absolute bottom-2.5 left-2.5 whitespace-pre rounded-sm bg-ink/85 px-2 py-0.5 text-sheet figures">
        {reading ?? (drawn ? `${texels.width} × ${texels.height} shown` : "computing…")}
      </output>
    </section>
  );
}
