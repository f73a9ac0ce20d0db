// Preview of the lighting removal, and the remaining dark blotches.
import { useQuery } from "@tanstack/react-query";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { PicturePopover } from "@/parts/picture-popover";
import { asked, type Draft } from "./use-draft";

interface Props {
  setId: number;
  by: "preparation" | "base_color";
  draft: Draft;
  /** The pointer is dragging; the measurement waits. */
  moving: boolean;
  /** Remove the blotches by delighting at that scale. */
  onEven: (scale: number) => void;
}

export function RemovedLighting({ setId, by, draft, moving, onEven }: Props) {
  const { data } = useQuery(queries.removedLighting(setId, by, moving ? null : asked(draft)));
  if (!data) return null;
  const { picture, stops, blotches } = data;
  return (
    <div className="flex items-center gap-2 text-small" aria-live="polite">
      {picture && (
        <PicturePopover
          picture={picture}
          label="Removed lighting"
          title={`Show the lighting that is removed (${stops.toFixed(2)} EV)`}
        >
          Bright: light that is removed. Dark: shadow that is removed. Middle gray: unchanged.
        </PicturePopover>
      )}
      <div className="min-w-0">
        {picture && (
          <p className="text-second">
            removed <span className="figures">{stops.toFixed(2)} EV</span>
          </p>
        )}
        {blotches && (
          <p className="text-ochre">
            △ dark blotches, <span className="figures">{blotches.stops.toFixed(1)} EV</span> on{" "}
            <span className="figures">{Math.round(blotches.share * 100)} %</span>. They would show
            as repetition.{" "}
            <Button onClick={() => onEven(blotches.scale)} look="link" className="text-ink">
              Remove
            </Button>
          </p>
        )}
      </div>
    </div>
  );
}
