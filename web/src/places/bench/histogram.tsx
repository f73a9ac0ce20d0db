// Histogram of the displayed picture, with the range of real surfaces.
import { useMemo } from "react";
import type { KindRead } from "@/api/client";
import type { Shown } from "./picture-cache";

const DARKEST = 30;
const LIGHTEST = 240;

export interface Spread {
  /** 256 counts for each channel. */
  bins: Uint32Array[];
  texels: number;
}

export function spreadOf(codes: ImageData, channels: number[]): Spread {
  const bins = channels.map(() => new Uint32Array(256));
  const { data } = codes;
  for (let at = 0; at < data.length; at += 4)
    for (const [n, channel] of channels.entries()) {
      const counts = bins[n] as Uint32Array;
      counts[data[at + channel] as number] = (counts[data[at + channel] as number] as number) + 1;
    }
  return { bins, texels: data.length / 4 };
}

/** Code of a quantile of the texels. */
export function quantile({ bins, texels }: Spread, share: number): number {
  let seen = 0;
  for (const [code, count] of (bins[0] as Uint32Array).entries()) {
    seen += count;
    if (seen >= share * texels) return code;
  }
  return 255;
}

/** Share of texels whose channel mean is outside the range of real surfaces. */
function outside({ bins, texels }: Spread): { below: number; above: number } {
  let below = 0;
  let above = 0;
  for (const counts of bins)
    for (let code = 0; code < 256; code++) {
      if (code < DARKEST) below += counts[code] as number;
      if (code > LIGHTEST) above += counts[code] as number;
    }
  const all = texels * bins.length;
  return { below: below / all, above: above / all };
}

function path(counts: Uint32Array, most: number): string {
  const points = [...counts].map((count, code) => {
    const high = 56 * Math.sqrt(Math.min(1, count / most));
    return `${code},${(58 - high).toFixed(1)}`;
  });
  return `M0,58 L${points.join(" L")} L255,58`;
}

const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;
const strokes = ["stroke-wrong", "stroke-verdigris", "stroke-[#3d5aa8]"];

interface Props {
  shown: Shown;
  kind: KindRead;
  channel: "all" | "0" | "1" | "2";
}

export function Histogram({ shown, kind, channel }: Props) {
  const single = kind.meaning === "data";
  const channels = useMemo(
    () => (single ? [0] : channel === "all" ? [0, 1, 2] : [Number(channel)]),
    [single, channel],
  );
  const spread = useMemo(() => spreadOf(shown.codes, channels), [shown, channels]);
  // A few codes can contain nearly all texels (as in a mask); the scale ignores them.
  const most = Math.max(1, ...spread.bins.flatMap((counts) => [...counts])) * 0.6;
  let caption: string;
  if (kind.kind === "base_color" || kind.kind === "diffuse") {
    const { below, above } = outside(spread);
    caption = `${percent(below)} below ${DARKEST}, ${percent(above)} above ${LIGHTEST}`;
  } else if (channels.length === 1) {
    const [low, middle, high] = [0.01, 0.5, 0.99].map((share) => quantile(spread, share) / 255);
    caption = `1 % ${low?.toFixed(2)} · median ${middle?.toFixed(2)} · 99 % ${high?.toFixed(2)}`;
  } else caption = "R, G and B";
  return (
    <figure
      aria-label="Histogram"
      className="pointer-events-none absolute right-23 bottom-2.5 rounded-sm border border-rule bg-card/95 px-2 pt-1.5 pb-1"
    >
      <svg viewBox="0 0 255 60" width={255} height={60} aria-hidden="true" className="block">
        {(kind.kind === "base_color" || kind.kind === "diffuse") && (
          <rect
            x={DARKEST}
            y={0}
            width={LIGHTEST - DARKEST}
            height={58}
            className="fill-verdigris-pale/60"
          />
        )}
        {spread.bins.map((counts, n) => (
          <path
            key={channels[n]}
            d={path(counts, most)}
            strokeWidth={1}
            className={
              single ? "fill-second/50 stroke-ink" : `fill-none ${strokes[channels[n] ?? 0]}`
            }
          />
        ))}
        <line x1={0} x2={255} y1={58.5} y2={58.5} className="stroke-second" />
      </svg>
      <figcaption className="text-note text-second figures">{caption}</figcaption>
    </figure>
  );
}
