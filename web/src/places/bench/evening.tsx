// What evening the light takes out, as a picture, and the dark places that are left.
import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { asked, type Draft } from "./use-draft";

interface Props {
  setId: number;
  by: "preparation" | "base_color";
  draft: Draft;
  /** A hand moves: it is asked when it rests. */
  moving: boolean;
  /** Take the dark places out, by evening at that scale. */
  onEven: (scale: number) => void;
}

export function Evening({ setId, by, draft, moving, onEven }: Props) {
  const { data } = useQuery(queries.evening(setId, by, moving ? null : asked(draft)));
  if (!data) return null;
  const { picture, stops, blotches } = data;
  return (
    <div className="flex items-center gap-2 text-small" aria-live="polite">
      {picture && (
        <Popover.Root>
          <Popover.Trigger
            aria-label="Lighting that was removed"
            title={`Takes out ${stops.toFixed(2)} EV of light and shade: look at it`}
            className="size-8.5 shrink-0 overflow-hidden rounded-sm border border-rule hover:border-copper"
          >
            <img src={picture} alt="" className="size-full object-cover" />
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              side="top"
              align="start"
              sideOffset={8}
              className="z-30 w-85 rounded-md border border-rule bg-card p-3 shadow-lg"
            >
              <img src={picture} alt="Lighting that was removed" className="w-full rounded-sm" />
              <p className="mt-2 text-second">
                Bright is light that was removed, dark is shadow that was removed; middle grey is
                nothing.
              </p>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
      <div className="min-w-0">
        {picture && (
          <p className="text-second">
            takes out <span className="figures">{stops.toFixed(2)} EV</span>
          </p>
        )}
        {blotches && (
          <p className="text-ochre">
            △ dark blotches, <span className="figures">{blotches.stops.toFixed(1)} EV</span> on{" "}
            <span className="figures">{Math.round(blotches.share * 100)} %</span>: they would
            repeat.{" "}
            <Button onClick={() => onEven(blotches.scale)} look="link" className="text-ink">
              Even them out
            </Button>
          </p>
        )}
      </div>
    </div>
  );
}
