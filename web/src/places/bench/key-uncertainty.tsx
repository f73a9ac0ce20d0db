// Color key uncertainty: samples, ambiguous texels, and the color to classify next.
import { useQuery } from "@tanstack/react-query";
import { HelpCircle } from "lucide-react";
import type { MapKind } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { asked, type Draft } from "./use-draft";

interface Props {
  setId: number;
  kind: MapKind;
  draft: Draft;
  /** The pointer is dragging; the measurement waits. */
  moving: boolean;
  /** Add a color to the selected or to the excluded colors. */
  onDecide: (parameter: "colors" | "exclude", color: string) => void;
}

const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

export function KeyUncertainty({ setId, kind, draft, moving, onDecide }: Props) {
  const { data, isFetching } = useQuery(
    queries.keyUncertainty(setId, kind, moving ? null : asked(draft)),
  );
  if (!data) return null;
  const { near, uncertain, like } = data;
  const side = (parameter: "colors" | "exclude", label: string) => (
    <Button onClick={() => like && onDecide(parameter, like)} look="small" className="h-6">
      {label}
    </Button>
  );
  return (
    <div className={`text-small ${isFetching ? "opacity-60" : ""}`} aria-live="polite">
      <p>
        selected <span className="figures">{percent(near)}</span>, uncertain{" "}
        <span className="figures">{percent(uncertain)}</span>
      </p>
      {like && uncertain > 0.002 && (
        <p
          className="mt-0.5 flex items-center gap-1.5"
          title={`most of the uncertain area is ${like}`}
        >
          <HelpCircle className="size-3.5 text-second" aria-hidden="true" />
          <span
            className="size-5 rounded-sm border border-second/60"
            style={{ background: like }}
          />
          {side("colors", "counts")}
          {side("exclude", "exclude")}
        </p>
      )}
    </div>
  );
}
