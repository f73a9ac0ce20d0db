// The surface that all maps of a set share: its width, how much relief it has, its borders.
import { RotateCcw } from "lucide-react";
import type { PreparedFacts, SurfaceSpec, TilingRead } from "@/api/client";
import { Button } from "@/parts/button";
import { DialField } from "@/parts/dial-field";
import { metres } from "@/parts/figures";
import { Segmented } from "@/parts/segmented";
import { type Borders, bordersOf, wrapOf } from "./borders";
import { Labelled } from "./controls";
import { keepsBorders, widthOf, withWidth } from "./prepare/preparing";
import type { Change, DraftState } from "./use-draft";
import type { World } from "./ways";

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
        // As high as the choice, so that the windows keep their size from map to map.
        <div className="h-15">
          <Labelled label="Relief" hint="The imported normals say how steep it is">
            <span className="text-second">as its normals say</span>
          </Labelled>
        </div>
      ) : (
        <Relief state={state} world={world} measured={measured} dial={dial} />
      )}
      <DialField
        label="Depth"
        hint="between the lowest and the highest point; by measure until it is set here"
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
            "by measure, from the normals"
          ) : (
            "by measure, from the relief"
          )
        ) : (
          <Button look="link" onClick={() => state.commit(withSurface({ depth: null }))}>
            <RotateCcw className="size-3" aria-hidden="true" /> set by hand; by measure again
          </Button>
        )}
      </p>
      {ruler ? (
        <Labelled label="Width" hint="Metres across, by the ruler of the source">
          <span className="figures">{metres(facts.surface.tile_size)}, by the ruler</span>
        </Labelled>
      ) : (
        <DialField
          label="Width"
          hint="metres across the picture"
          value={widthOf(state.draft, facts)}
          low={0.05}
          high={5}
          unit="m"
          initial={1}
          {...dial((value) => withWidth(value, facts))}
        />
      )}
      {facts.sheet ? (
        <Labelled label="Borders" hint="Every operation goes on across them">
          <span className="text-second">tiles meet each other</span>
        </Labelled>
      ) : (
        <BordersField state={state} tiling={tiling} />
      )}
    </>
  );
}

/** Which borders meet, and what was measured of them. */
function BordersField({ state, tiling }: Pick<Props, "state" | "tiling">) {
  const { surface } = state.draft;
  const { seams, frame } = state.draft.prepare;
  const cut = !seams && !keepsBorders(frame);
  return (
    <>
      <Labelled
        label="Borders"
        hint={
          seams
            ? "They meet, since the seams of the source are closed"
            : cut
              ? "They end where the source is cropped or rotated: close its seams, and they meet"
              : "Where borders meet, every operation wraps; else it reflects there"
        }
      >
        <Segmented
          label="Borders"
          value={seams ? "meet" : cut ? "end" : bordersOf(surface.wrap)}
          options={[
            { value: "end", label: "end", disabled: Boolean(seams) },
            { value: "meet", label: "meet", disabled: cut },
            {
              value: "across",
              label: "↔",
              title: "meet across only",
              disabled: cut || Boolean(seams),
            },
            { value: "down", label: "↕", title: "meet down only", disabled: cut || Boolean(seams) },
          ]}
          onChange={(next: Borders) => state.commit(withSurface({ wrap: wrapOf(next) }))}
        />
      </Labelled>
      {tiling && (
        <p
          className="pl-23 text-note text-second"
          title="Difference across the border over that inside; 1 is as inside"
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

/** Normals came in, or the height is made of some: they tell how steep it is. */
function hasNormals(maps: DraftState["draft"]["maps"], world: World): boolean {
  if (maps.normal?.how === "imported") return true;
  const { height } = maps;
  if (height?.how !== "derived") return false;
  const operation = world.operations.find((one) => one.name === height.operation);
  return operation?.inputs.includes("normal") ?? false;
}

/** How much relief there is, as a mean tilt: a word or degrees. */
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
        hint="mean tilt of the whole surface: the contrast of a picture does not tell it"
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
            title: `${degrees}° mean tilt`,
          }))}
          onChange={(next) => state.commit(change(world.reliefs[next] ?? relief))}
        />
      </div>
    </>
  );
}
