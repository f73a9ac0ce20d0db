// Controls above the map view: content, repetition, zoom.
import { BarChart3 } from "lucide-react";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { Segmented } from "@/parts/segmented";
import type { Other } from "./flat-window";

export const zooms = [
  { value: "fit", label: "Fit" },
  { value: "1", label: "1 : 1" },
  { value: "8", label: "8 : 1" },
] as const;
export const layouts = [
  { value: "1", label: "Single" },
  { value: "2", label: "Tiled 2×2" },
  { value: "3", label: "3×3" },
  { value: "wipe", label: "Compare" },
] as const;
export const channels = [
  { value: "all", label: "RGB" },
  { value: "0", label: "R" },
  { value: "1", label: "G" },
  { value: "2", label: "B" },
] as const;

export type Zoom = (typeof zooms)[number]["value"];
export type Layout = (typeof layouts)[number]["value"];
export type Channel = (typeof channels)[number]["value"];

interface LayoutProps {
  layout: Layout;
  onLayout: (layout: Layout) => void;
  /** Right side of the divider; none without a comparison. */
  wiped: Other | undefined;
  others: Other[];
  onAgainst: (value: string) => void;
  /** Empty for a map with one channel. */
  channel: Channel | null;
  onChannel: (channel: Channel) => void;
}

export function LayoutTools(props: LayoutProps) {
  const { layout, onLayout, wiped, others, onAgainst, channel, onChannel } = props;
  return (
    <div className="absolute left-2.5 top-2.5 flex gap-2">
      <Segmented label="Layout" value={layout} options={layouts} onChange={onLayout} />
      {wiped && (
        <span className="w-32">
          <Choice label="Compare with" value={wiped.value} options={others} onChange={onAgainst} />
        </span>
      )}
      {channel !== null && !wiped && (
        <Segmented label="Channel" value={channel} options={channels} onChange={onChannel} />
      )}
    </div>
  );
}

interface ZoomProps {
  zoom: Zoom;
  onZoom: (zoom: Zoom) => void;
  counted: boolean;
  onCounted: (counted: boolean) => void;
}

export function ZoomTools({ zoom, onZoom, counted, onCounted }: ZoomProps) {
  return (
    <div className="absolute right-2.5 top-2.5 flex gap-2">
      <Button
        aria-pressed={counted}
        aria-label="Histogram"
        title="Histogram (H)"
        onClick={() => onCounted(!counted)}
        look="sign"
      >
        <BarChart3 className="size-4" aria-hidden="true" />
      </Button>
      <Segmented label="Zoom" value={zoom} options={zooms} onChange={onZoom} />
    </div>
  );
}
