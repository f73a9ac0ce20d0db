// Captures of a measured set with their lights: source of each light, and excluded captures.
import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { CaptureSpec, CapturesSpec, Schemas } from "@/api/client";
import { fittedLights } from "@/api/jobs";
import { Button } from "@/parts/button";
import { LightDome } from "@/parts/light-dome";
import { allRemarks, distanceText, inWords } from "@/parts/lights";
import { notify } from "@/parts/notices";
import { NumberField } from "@/parts/number-field";
import { Column } from "../column";
import { type ColumnProps, ToolButton } from "../prepare/tool-button";
import { asked, type Draft } from "../use-draft";
import { FEWEST, lighting, originOf, usedOf, using, withShots } from "./captures";

interface Props extends ColumnProps {
  setId: number;
  draft: Draft;
  captures: CapturesSpec;
  /** The capture that is compared with its prediction, if any. */
  held: string | null;
  onHold: (source: string | null) => void;
}

export function Lights(props: Props) {
  const { captures, onMove, onCommit, held, onHold } = props;
  const [source, setSource] = useState(captures.captures[0]?.source);
  const number = Math.max(
    0,
    captures.captures.findIndex((one) => one.source === (held ?? source)),
  );
  const capture = captures.captures[number];
  if (!capture) return null;
  return (
    <>
      <div className="-my-1">
        <LightDome
          captures={captures.captures}
          size={164}
          chosen={capture.source}
          onChoose={(chosen) => {
            setSource(chosen);
            if (held) onHold(chosen);
          }}
          onMove={(one, to) => onMove(lighting(one, to))}
          onCommit={(one, to) => onCommit(lighting(one, to))}
        />
      </div>
      <Column title={`Picture ${number + 1} of ${captures.captures.length}`}>
        <OnePicture {...props} capture={capture} />
      </Column>
      <Column title="All pictures">
        <AllPictures {...props} />
      </Column>
    </>
  );
}

/** The selected capture: its light, whether it is used, and its comparison. */
function OnePicture({
  captures,
  capture,
  held,
  onHold,
  onCommit,
}: Props & { capture: CaptureSpec }) {
  const { lamp } = capture;
  const angle = (
    label: string,
    value: number,
    low: number,
    high: number,
    name: "azimuth" | "elevation",
  ) => (
    <Captioned caption={label}>
      <NumberField
        label={label}
        value={value}
        low={low}
        high={high}
        places={1}
        step={1}
        unit="°"
        onCommit={(next) => onCommit(lighting(capture.source, { ...lamp, [name]: next }))}
      />
    </Captioned>
  );
  return (
    <div className="flex flex-col items-start gap-1.5">
      <p className="leading-snug">
        {inWords(lamp)}, {distanceText(lamp.distance)}
        <span className="block text-small text-second">{originOf(capture)}</span>
      </p>
      <div className="flex items-center gap-2">
        {angle("Azimuth", lamp.azimuth, 0, 360, "azimuth")}
        {angle("Elevation", lamp.elevation, 2, 90, "elevation")}
        <Captioned caption="Distance">
          <NumberField
            label="Distance"
            title="Distance of the light from the center of the picture, in picture widths; 0 is infinitely distant"
            value={lamp.distance ?? 0}
            low={0}
            high={1000}
            places={1}
            step={0.1}
            onCommit={(next) =>
              onCommit(lighting(capture.source, { ...lamp, distance: next > 0 ? next : null }))
            }
          />
        </Captioned>
      </div>
      <label className="flex h-field items-center gap-2">
        <input
          type="checkbox"
          className="accent-verdigris"
          checked={capture.used}
          disabled={capture.used && usedOf(captures).length <= FEWEST}
          onChange={(event) => onCommit(using(capture.source, event.target.checked))}
        />
        Use this picture
      </label>
      <Button
        look="tool"
        aria-pressed={held !== null}
        title="Shows the picture next to the measured surface under the same light"
        onClick={() => onHold(held ? null : capture.source)}
      >
        Compare with the measured surface
      </Button>
    </div>
  );
}

function Captioned({ caption, children }: { caption: string; children: ReactNode }) {
  return (
    <span className="flex min-w-0 grow basis-0 flex-col">
      <span aria-hidden="true" className="text-small whitespace-nowrap text-second">
        {caption}
      </span>
      {children}
    </span>
  );
}

type LightsQuery = Schemas["LightsQuery"];

/** Source of the light directions, and remarks of the capture analysis. */
function AllPictures({ setId, draft, captures, tool, onTool, onCommit }: Props) {
  const tell = useMutation({
    mutationFn: (how: Pick<LightsQuery, "how" | "elevation">) =>
      fittedLights(setId, { ...how, draft: asked(draft) }),
    onSuccess: (found) => onCommit(withShots(found)),
    onError: (error) => notify("wrong", error.message),
  });
  const { ball } = captures;
  const counts = usedOf(captures).length;
  return (
    <>
      <p className="leading-snug">
        {counts} of {captures.captures.length} pictures used.{" "}
        {ball && ` ${ball.kind === "shiny" ? "Mirror" : "White"} ball detected.`}
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        {ball && (
          <ToolButton of="ball" tool={tool} onTool={onTool}>
            Adjust ball
          </ToolButton>
        )}
        <ToolButton of="grey" tool={tool} onTool={onTool}>
          Pick gray card
        </ToolButton>
        <Button
          look="tool"
          title="Adjusts the lights to fit the pictures, starting at their current positions"
          disabled={tell.isPending}
          onClick={() => tell.mutate({ how: "refined" })}
        >
          Refine lights
        </Button>
        <GuessLights
          pending={tell.isPending}
          onGuess={(elevation) => tell.mutate({ how: "estimated", elevation: elevation ?? null })}
        />
      </div>
      {tell.isPending && <output className="block text-second">estimating…</output>}
      <ul className="mt-1.5 text-small leading-snug text-second">
        {allRemarks(captures).map((one) => (
          <li key={one}>△ {one}</li>
        ))}
      </ul>
    </>
  );
}

/**
 * Estimation of all lights from the captures alone, at any position or in a ring of known
 * elevation.
 */
function GuessLights({
  pending,
  onGuess,
}: {
  pending: boolean;
  onGuess: (elevation?: number) => void;
}) {
  const [elevation, setUp] = useState(45);
  return (
    <>
      <Button
        look="tool"
        title="Estimates all lights from the pictures alone. Less reliable than a ball."
        disabled={pending}
        onClick={() => onGuess()}
      >
        Estimate lights
      </Button>
      <span className="flex items-center gap-1.5">
        <Button
          look="tool"
          title="Estimates lights that were all at the same elevation"
          disabled={pending}
          onClick={() => onGuess(elevation)}
        >
          Estimate ring at
        </Button>
        <span className="w-16">
          <NumberField
            label="Elevation of the ring"
            value={elevation}
            low={5}
            high={85}
            places={0}
            step={1}
            unit="°"
            onCommit={setUp}
          />
        </span>
      </span>
    </>
  );
}
