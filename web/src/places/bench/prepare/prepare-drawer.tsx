// Preparation of a set in columns: frame, blemishes and light, seams, size and scale.
import { useState } from "react";
import type { PreparedFacts } from "@/api/client";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { DialField } from "@/parts/dial-field";
import { metres, texels } from "@/parts/format";
import { NumberField } from "@/parts/number-field";
import { Segmented } from "@/parts/segmented";
import { TileGrid } from "@/parts/tile-grid";
import { Lights } from "../captures/lights";
import { Column } from "../column";
import { Labelled } from "../controls";
import { RemovedLighting } from "../removed-lighting";
import type { Change, DraftState } from "../use-draft";
import { FrameColumn } from "./frame-column";
import { preparing, type Tool, widthOf, withWidth } from "./preparing";
import { SeamsColumn } from "./seams-column";
import { type ColumnProps, ToolButton } from "./tool-button";
import type { SeamsState } from "./use-seams";

interface Props {
  state: DraftState;
  facts: PreparedFacts;
  seams: SeamsState;
  tool: Tool | null;
  onTool: (tool: Tool | null) => void;
  radius: number;
  onRadius: (radius: number) => void;
  onMoving: (moving: boolean) => void;
  onSeamsChosen: () => void;
  /** The set and its draft, for measurements; dragging. */
  setId: number;
  moving: boolean;
  /** Of a measured set: the capture compared with its prediction. */
  held: string | null;
  onHold: (source: string | null) => void;
}

/** For a measured set: its lights, or the steps that apply to all maps. */
type About = "lights" | "steps";
const ABOUT = [
  { value: "lights", label: "Lights" },
  { value: "steps", label: "Steps" },
] as const;

export function PrepareDrawer(props: Props) {
  const { state, facts, seams, tool, onTool, radius, onRadius, onMoving } = props;
  const { captures } = state.draft;
  const [about, setAbout] = useState<About>("lights");
  const column: ColumnProps = {
    prepare: state.draft.prepare,
    facts,
    tool,
    onTool,
    onMove: (change) => {
      onMoving(true);
      state.move(change);
    },
    onCommit: (change) => {
      onMoving(false);
      state.commit(change);
    },
  };
  return (
    <section
      aria-label="Preparation settings"
      className="flex min-h-42 grow gap-6 overflow-auto rounded-b-md border border-t-2 border-rule border-t-copper bg-card px-4 py-3"
    >
      {captures && (
        <div className="shrink-0">
          <Segmented label="Source" value={about} options={ABOUT} onChange={setAbout} />
        </div>
      )}
      {captures && about === "lights" && (
        <Lights
          {...column}
          setId={props.setId}
          draft={state.draft}
          captures={captures}
          held={props.held}
          onHold={props.onHold}
        />
      )}
      {facts.sheet && <TilesColumn numbers={facts.sheet.numbers} />}
      {!facts.sheet && !(captures && about === "lights") && (
        <>
          <FrameColumn {...column} />
          <MendColumn {...props} {...column} radius={radius} onRadius={onRadius} />
          <SeamsColumn
            prepare={column.prepare}
            seams={seams}
            onCommit={column.onCommit}
            onChosen={props.onSeamsChosen}
          />
        </>
      )}
      <ScaleColumn {...column} state={state} />
    </section>
  );
}

/** Replaces steps that would separate tiles from each other, or from a model's UVs. */
function TilesColumn({ numbers }: { numbers: number[] }) {
  return (
    <Column title={`${numbers.length} tiles`}>
      <div className="flex gap-4">
        <TileGrid numbers={numbers} />
        <p className="max-w-100 leading-snug text-second">
          The tiles form one continuous surface, and every map is computed across tile borders.
          Tiles aren't cropped, rotated or made tileable, because their UVs would no longer fit.
          Each map is delivered as one file per tile, with the tile number in its name.
        </p>
      </div>
    </Column>
  );
}

const LIGHT = { strength: 0, scale: 0.125 };
const USUAL_STRENGTH = 0.9;

function MendColumn({
  prepare,
  tool,
  onTool,
  onMove,
  onCommit,
  radius,
  onRadius,
  setId,
  state,
  moving,
}: ColumnProps & Pick<Props, "radius" | "onRadius" | "setId" | "state" | "moving">) {
  const { marks } = prepare;
  const light = prepare.light ?? LIGHT;
  const withLight = (part: Partial<typeof light>): Change => {
    const next = { ...light, ...part };
    return preparing({ light: next.strength > 0 ? next : null });
  };
  return (
    <Column title="Blemishes and lighting">
      <div className="flex h-control items-center gap-2">
        <ToolButton of="marks" tool={tool} onTool={onTool}>
          Mark blemishes
        </ToolButton>
        <span className="text-second">
          {marks.length === 0 ? "no marks" : `${marks.length} removed`}
        </span>
        {marks.length > 0 && (
          <Button
            look="bare"
            className="ml-auto -mr-2 h-field px-2"
            onClick={() => onCommit(preparing({ marks: [] }))}
          >
            Remove all
          </Button>
        )}
      </div>
      {tool === "marks" && (
        <DialField
          label="Spot size"
          hint="Radius of a mark made by a click, in % of the picture's width"
          value={radius * 100}
          low={0.2}
          high={10}
          unit="%"
          initial={2}
          onMove={(value) => onRadius(value / 100)}
          onCommit={(value) => onRadius(value / 100)}
        />
      )}
      <DialField
        label="Delight"
        hint="Share of the uneven lighting that is removed from colors; 0 removes none"
        value={light.strength * 100}
        low={0}
        high={100}
        unit="%"
        initial={prepare.light ? 0 : USUAL_STRENGTH * 100}
        onMove={(value) => onMove(withLight({ strength: value / 100 }))}
        onCommit={(value) => onCommit(withLight({ strength: value / 100 }))}
      />
      <DialField
        label="Lighting scale"
        hint="Lighting varies over distances larger than this, in % of the width"
        value={light.scale * 100}
        low={2}
        high={50}
        unit="%"
        initial={LIGHT.scale * 100}
        onMove={(value) => onMove(withLight({ scale: value / 100 }))}
        onCommit={(value) => onCommit(withLight({ scale: value / 100 }))}
      />
      {state.draft.maps.base_color && (
        <RemovedLighting
          setId={setId}
          by="preparation"
          draft={state.draft}
          moving={moving}
          onEven={(scale) => onCommit(withLight({ strength: USUAL_STRENGTH, scale }))}
        />
      )}
    </Column>
  );
}

const sides = [512, 1024, 2048, 4096, 8192] as const;

function ScaleColumn({
  prepare,
  facts,
  tool,
  onTool,
  onMove,
  onCommit,
  state,
}: ColumnProps & { state: DraftState }) {
  const { size, ruler } = prepare;
  const width = widthOf(state.draft, facts);
  const known = size && !sides.some((side) => side === size.longer_side);
  const options = [
    { value: "0", label: "unchanged" },
    ...(known ? [{ value: String(size.longer_side), label: String(size.longer_side) }] : []),
    ...sides.map((side) => ({ value: String(side), label: String(side) })),
  ];
  function lay() {
    if (!ruler)
      onCommit(preparing({ ruler: { start: [0.25, 0.5], end: [0.75, 0.5], metres: width / 2 } }));
    onTool(tool === "ruler" ? null : "ruler");
  }
  return (
    <Column title="Size and scale">
      {!facts.sheet && (
        <div className="grid h-control grid-cols-[84px_1fr_auto] items-center gap-2">
          <span title="Texels along the longer side; each map is resampled as its data requires">
            Longer side
          </span>
          <Choice
            label="Longer side"
            value={String(size?.longer_side ?? 0)}
            options={options}
            onChange={(value) =>
              onCommit(
                preparing({
                  size: Number(value)
                    ? { longer_side: Number(value), square: size?.square ?? false }
                    : null,
                }),
              )
            }
          />
          <Button
            aria-pressed={size?.square ?? false}
            disabled={!size}
            title="Stretches the shorter side to the length of the longer one"
            look="toggle"
            onClick={() => size && onCommit(preparing({ size: { ...size, square: !size.square } }))}
          >
            Square
          </Button>
        </div>
      )}
      {ruler ? (
        <Labelled label="Width" hint="Set by the ruler, in meters">
          <span className="figures">{metres(width)}, set by the ruler</span>
        </Labelled>
      ) : (
        <DialField
          label="Width"
          hint="meters across the prepared picture"
          value={width}
          low={0.05}
          high={5}
          unit="m"
          initial={1}
          onMove={(value) => onMove(withWidth(value, facts))}
          onCommit={(value) => onCommit(withWidth(value, facts))}
        />
      )}
      <div className="flex h-control items-center gap-2">
        {!facts.sheet && (
          <ToolButton of="ruler" tool={tool} onTool={lay}>
            Ruler
          </ToolButton>
        )}
        {ruler ? (
          <>
            <NumberField
              label="Length of the ruler"
              value={ruler.metres}
              low={0.0001}
              high={1000}
              places={3}
              step={0.01}
              unit="m"
              onCommit={(value) => onCommit(preparing({ ruler: { ...ruler, metres: value } }))}
            />
            <Button
              look="bare"
              className="-mr-2 h-field px-2"
              onClick={() => {
                // The resulting width stays.
                onCommit((draft) => preparing({ ruler: null })(withWidth(width, facts)(draft)));
                if (tool === "ruler") onTool(null);
              }}
            >
              Remove
            </Button>
          </>
        ) : (
          !facts.sheet && (
            <span className="text-small text-second">sets the width from a known length</span>
          )
        )}
      </div>
      <output className="mt-1 block text-second figures" aria-label="Result">
        {texels(facts.width, facts.height)} · {metres(width)} · {Math.round(facts.width / width)}{" "}
        px/m
      </output>
    </Column>
  );
}
