// The surface of a set: width, relief, tiling.
import { RotateCcw } from "lucide-react";
import type { PreparedFacts, SurfaceSpec, TilingRead } from "@/api/client";
import { Button } from "@/parts/button";
import { DialField } from "@/parts/dial-field";
import { metres } from "@/parts/format";
import { Segmented } from "@/parts/segmented";
import { Labelled } from "./controls";
import type { World } from "./map-definitions";
import { keepsBorders, widthOf, withWidth } from "./prepare/preparing";
import { type Tiling, tilingOf, wrapOf } from "./tiling";
import type { Change, DraftState } from "./use-draft";

interface Props {
  state: DraftState;
  facts: PreparedFacts;
  tiling: TilingRead | null;
  world: World;
  onMoving: (moving: boolean) => void;
}

export function SurfaceControls({ state, facts, tiling, world, onMoving }: Props) {
  const { surface } = state.draft;
  const dial = (change: (value: number) => Change) => ({
    onMove: (value: number) => {
      onMoving(true);
      state.move(change(value));
    },
    onCommit: (value: number) => {
      onMoving(false);
      state.commit(change(value));
    },
  });
  const { ruler } = state.draft.prepare;
  const given = hasNormals(state.draft.maps, world);
  const measured = surface.depth === null || surface.depth === undefined;
  const depth = surface.depth ?? facts.surface.depth ?? 0;
  return (
    <>
      {given ? (
        // As high as the select field, so that the views keep their size.
        <div className="h-15">
          <Labelled label="Relief" hint="The imported normal map determines the relief">
            <span className="text-second">from the normal map</span>
          </Labelled>
        </div>
      ) : (
        <Relief state={state} world={world} measured={measured} dial={dial} />
      )}
      <DialField
        label="Depth"
        hint="distance between the lowest and the highest point; measured until you set it"
        low={0}
        high={depth > 0.1 ? 1000 : 100}
        unit="mm"
        value={depth * 1000}
        initial={depth * 1000}
        {...dial((value) => withSurface({ depth: value / 1000 }))}
      />
      <p className="flex h-4 items-center gap-1.5 pl-23 text-note text-second">
        {measured ? (
          given ? (
            "measured from the normal map"
          ) : (
            "measured from the relief"
          )
        ) : (
          <Button look="link" onClick={() => state.commit(withSurface({ depth: null }))}>
            <RotateCcw className="size-3" aria-hidden="true" /> set manually · reset
          </Button>
        )}
      </p>
      {ruler ? (
        <Labelled label="Width" hint="Set by the ruler of the source, in meters">
          <span className="figures">{metres(facts.surface.tile_size)}, set by the ruler</span>
        </Labelled>
      ) : (
        <DialField
          label="Width"
          hint="meters across the picture"
          value={widthOf(state.draft, facts)}
          low={0.05}
          high={5}
          unit="m"
          initial={1}
          {...dial((value) => withWidth(value, facts))}
        />
      )}
      {facts.sheet ? (
        <Labelled label="Tiling" hint="Operations continue across the outer borders">
          <span className="text-second">tiles are adjacent</span>
        </Labelled>
      ) : (
        <TilingField state={state} tiling={tiling} />
      )}
    </>
  );
}

/** The tiling directions, and the measured seam. */
function TilingField({ state, tiling }: Pick<Props, "state" | "tiling">) {
  const { surface } = state.draft;
  const { seams, frame } = state.draft.prepare;
  const cut = !seams && !keepsBorders(frame);
  return (
    <>
      <Labelled
        label="Tiling"
        hint={
          seams
            ? "Tileable, because the source is made tileable"
            : cut
              ? "Not tileable, because the source is cropped or rotated: use Make tileable"
              : "Tileable directions wrap in every operation; the others are mirrored at the border"
        }
      >
        <Segmented
          label="Tiling"
          value={seams ? "both" : cut ? "none" : tilingOf(surface.wrap)}
          options={[
            { value: "none", label: "none", disabled: Boolean(seams) },
            { value: "both", label: "both", disabled: cut },
            {
              value: "across",
              label: "↔",
              title: "horizontal",
              disabled: cut || Boolean(seams),
            },
            { value: "down", label: "↕", title: "vertical", disabled: cut || Boolean(seams) },
          ]}
          onChange={(next: Tiling) => state.commit(withSurface({ wrap: wrapOf(next) }))}
        />
      </Labelled>
      {tiling && (
        <p
          className="pl-23 text-note text-second"
          title="Seam: difference across the border divided by that inside; 1 is invisible"
        >
          measured: {tiling.text}
        </p>
      )}
    </>
  );
}

function withSurface(change: Partial<SurfaceSpec>): Change {
  return (draft) => ({ ...draft, surface: { ...draft.surface, ...change } });
}

/**
 * Whether a normal map was imported, or the height is derived from one: then the slope is known.
 */
function hasNormals(maps: DraftState["draft"]["maps"], world: World): boolean {
  if (maps.normal?.how === "imported") return true;
  const { height } = maps;
  if (height?.how !== "derived") return false;
  const operation = world.operations.find((one) => one.name === height.operation);
  return operation?.inputs.includes("normal") ?? false;
}

/** Relief as a mean slope: a word or degrees. */
function Relief({
  state,
  world,
  measured,
  dial,
}: {
  state: DraftState;
  world: World;
  measured: boolean;
  dial: (change: (value: number) => Change) => {
    onMove: (value: number) => void;
    onCommit: (value: number) => void;
  };
}) {
  const { relief } = state.draft.surface;
  const word = Object.entries(world.reliefs).find(([, degrees]) => degrees === relief)?.[0];
  const change = (degrees: number) => withSurface({ relief: degrees, depth: null });
  return (
    <>
      <DialField
        label="Relief"
        hint="mean slope of the surface. A photo's contrast doesn't reveal it."
        low={0}
        high={45}
        unit="°"
        value={relief}
        initial={6}
        {...dial(change)}
      />
      <div className="flex h-control items-center justify-end">
        <Segmented
          label="Amount of relief"
          value={measured && word ? word : ""}
          options={Object.entries(world.reliefs).map(([value, degrees]) => ({
            value,
            label: value,
            title: `mean slope ${degrees}°`,
          }))}
          onChange={(next) => state.commit(change(world.reliefs[next] ?? relief))}
        />
      </div>
    </>
  );
}
