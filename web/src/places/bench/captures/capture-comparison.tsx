// A capture next to its prediction, both under the capture's light; playback through all lights.
import { useQuery } from "@tanstack/react-query";
import { Pause, Play, X } from "lucide-react";
import { useEffect, useState } from "react";
import type { CapturesSpec } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { inWords } from "@/parts/lights";
import { Segmented } from "@/parts/segmented";
import { asked, type Draft } from "../use-draft";
import { capturesByAzimuth } from "./captures";

const EVERY = 900;

interface Props {
  setId: number;
  draft: Draft;
  captures: CapturesSpec;
  source: string;
  moving: boolean;
  onHold: (source: string | null) => void;
}

type Beside = "ours" | "difference";

export function CaptureComparison({ setId, draft, captures, source, moving, onHold }: Props) {
  const [beside, setBeside] = useState<Beside>("ours");
  const [plays, setPlays] = useState(false);
  const { data, error, isFetching } = useQuery(
    queries.captureComparison(setId, source, moving ? null : asked(draft)),
  );
  const order = capturesByAzimuth(captures);
  const at = order.findIndex((one) => one.source === source);
  const capture = order[at];
  useEffect(() => {
    if (!plays || isFetching) return;
    const next = order[(at + 1) % order.length]?.source;
    const timer = setTimeout(() => next && onHold(next), EVERY);
    return () => clearTimeout(timer);
  });
  const number = captures.captures.findIndex((one) => one.source === source) + 1;
  return (
    <section
      aria-label="Picture compared with the measured surface"
      className="absolute inset-0 flex flex-col gap-2 rounded-sm bg-ground p-2.5"
    >
      <div className="flex items-center gap-2.5 text-sheet">
        <Button
          look="sign"
          className="text-ink"
          aria-label={plays ? "Stop" : "Play light sequence"}
          title={plays ? "Stop" : "Shows one picture after the other, by light azimuth"}
          onClick={() => setPlays((now) => !now)}
        >
          {plays ? <Pause className="size-4" /> : <Play className="size-4" />}
        </Button>
        <p className="min-w-0 truncate rounded-sm bg-ink/85 px-2 py-0.5">
          Picture {number}
          {capture && <span className="text-small">, {inWords(capture.lamp)}</span>}
        </p>
        <span className="ml-auto" />
        {data && (
          <output
            aria-label="Difference"
            className="rounded-sm bg-ink/85 px-2 py-0.5 whitespace-nowrap figures"
          >
            ΔE {data.delta_e.toFixed(1)}
          </output>
        )}
        <span className="shrink-0 text-ink">
          <Segmented
            label="Compare with the picture"
            value={beside}
            options={[
              { value: "ours", label: "Measured surface" },
              { value: "difference", label: "Difference" },
            ]}
            onChange={setBeside}
          />
        </span>
        <Button
          look="sign"
          className="text-ink"
          aria-label="Close comparison"
          title="Back to the maps (Esc)"
          onClick={() => onHold(null)}
        >
          <X className="size-4" aria-hidden="true" />
        </Button>
      </div>
      {error && <p className="rounded-sm bg-sheet p-2 text-ink">{error.message}</p>}
      <div className="grid min-h-0 grow grid-cols-2 gap-2">
        {data && (
          <>
            <Shown src={data.photo} title="photo" />
            <Shown
              src={beside === "ours" ? data.ours : data.difference}
              title={
                beside === "ours"
                  ? "measured surface under the same light"
                  : "difference (white: ΔE 10)"
              }
            />
          </>
        )}
        {!data && !error && (
          <p className="self-start justify-self-start rounded-sm bg-ink/85 px-2 py-0.5 text-sheet">
            rendering…
          </p>
        )}
      </div>
    </section>
  );
}

function Shown({ src, title }: { src: string; title: string }) {
  return (
    <figure className="relative min-h-0 min-w-0 overflow-hidden rounded-sm">
      <img src={src} alt={title} className="size-full object-contain" />
      <figcaption className="absolute bottom-0 left-0 bg-ink/85 px-2 py-0.5 text-small text-sheet">
        {title}
      </figcaption>
    </figure>
  );
}
