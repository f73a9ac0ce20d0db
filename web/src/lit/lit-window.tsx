// The lit view: shape, environment, light, repetition, displacement, comparison of two states.
import { Layers } from "lucide-react";
import { memo, type ReactNode, useMemo, useRef, useState } from "react";
import type { SurfaceSpec } from "@/api/client";
import { Button } from "@/parts/button";
import { useCommands } from "@/parts/commands";
import { PictureDivider } from "@/parts/divider";
import { following } from "@/parts/options";
import { Segmented } from "@/parts/segmented";
import type { Pictures } from "@/places/bench/picture-cache";
import type { ModelWaiting } from "@/places/bench/use-model";
import { type Standing, shapes } from "./choices";
import { lineOf } from "./drawing/messages";
import { EnvironmentChoice } from "./environment-choice";
import { EnvironmentMenu } from "./environment-menu";
import { LightDial } from "./light-dial";
import { Eye } from "./shared-camera";
import { keysOf, type ModelOnStage, Stage, type TakePicture } from "./stage";
import { TURN, TurnRing, turned } from "./turn-ring";
import { useLights } from "./use-lights";
import { WaitingForModel } from "./waiting-for-model";

const repeats = [
  { value: "1", label: "×1" },
  { value: "2", label: "×2" },
  { value: "4", label: "×4" },
] as const;

const stateOrder = [{ value: "b" }, { value: "a" }, { value: "wipe" }] as const;

interface Props {
  pictures: Pictures;
  /** The maps when the set was opened. */
  before: Pictures;
  surface: SurfaceSpec;
  aspect: number;
  /** The linked model, once it has loaded. */
  model: ModelOnStage | null;
  /** Why it hasn't loaded. */
  waiting?: ModelWaiting | null;
}

/** State A is stored, initially the opened version; B is the current state. */
function useStates(pictures: Pictures, before: Pictures) {
  const [kept, setKept] = useState<Pictures | null>(null);
  const [state, setState] = useState<"a" | "b" | "wipe">("b");
  const first = kept ?? before;
  return {
    state,
    shown: state === "a" ? first : pictures,
    /** Content on the left of the divider, above the current view. */
    over: state === "wipe" ? first : null,
    show: setState,
    keep: () => setKept(pictures),
    isKept: kept !== null,
  };
}

const onModel = { value: "model", label: "Model", title: "the linked model" };

/** Geometry: the linked model, else a suitable shape. */
function useStanding(surface: SurfaceSpec, hasModel: boolean) {
  const usual: Standing = surface.wrap ? "sphere" : "plane";
  const [chosen, setStanding] = useState<Standing | null>(null);
  const standing = chosen && (chosen !== "model" || hasModel) ? chosen : usual;
  const offered: { value: Standing; label: string; title?: string }[] = hasModel
    ? [{ ...onModel, value: "model" as const }, ...shapes]
    : [...shapes];
  return { standing: chosen === null && hasModel ? "model" : standing, offered, setStanding };
}

/** Overlay on the left of a draggable divider. */
function Parted({ left, right, children }: { left: string; right: string; children: ReactNode }) {
  const [share, setShare] = useState(0.5);
  return (
    <>
      <div
        className="pointer-events-none absolute inset-0"
        style={{ clipPath: `inset(0 ${(1 - share) * 100}% 0 0)` }}
      >
        {children}
      </div>
      <PictureDivider share={share} left={left} right={right} onMove={setShare} />
    </>
  );
}

function LitWindow({ pictures, before, surface, aspect, model, waiting }: Props) {
  const states = useStates(pictures, before);
  const frame = useRef<HTMLElement>(null);
  const camera = useRef<TakePicture | null>(null);
  const eye = useMemo(() => new Eye(), []);
  const { standing, offered, setStanding } = useStanding(surface, model !== null);
  const [repeat, setRepeat] = useState<(typeof repeats)[number]["value"]>("1");
  const { environment, light, turnLamp, followBrightest, setTurn } = useLights();
  const [displaced, setDisplaced] = useState(false);
  useCommands([
    {
      id: "lit-shape",
      label: "Lit view: next shape",
      keys: "s",
      run: () => setStanding(following(offered, standing)),
    },
    {
      id: "lit-around",
      label: "Lit view: next environment",
      keys: "e",
      run: () => environment.choose(following(environment.all, environment.chosen.value)),
    },
    {
      id: "lit-turn-back",
      label: "Lit view: rotate environment left",
      keys: "[",
      run: () => setTurn(turned(environment.turn - TURN)),
    },
    {
      id: "lit-turn",
      label: "Lit view: rotate environment right",
      keys: "]",
      run: () => setTurn(turned(environment.turn + TURN)),
    },
    {
      id: "lit-repeat",
      label: "Lit view: repeat 1×, 2×, 4×",
      keys: "r",
      run: () => setRepeat((now) => following(repeats, now)),
    },
    {
      id: "lit-displace",
      label: "Lit view: toggle displacement",
      keys: "d",
      run: () => setDisplaced((now) => !now),
    },
    {
      id: "lit-states",
      label: "Lit view: state A, B, or both",
      keys: "x",
      run: () => states.show(following(stateOrder, states.state)),
    },
    {
      id: "lit-keep",
      label: "Lit view: store the current state as A",
      keys: "Shift+X",
      run: states.keep,
    },
  ]);
  const seen = {
    shape: standing,
    aspect,
    displaced,
    surface,
    light,
    eye,
    model,
    around: environment.view,
  };
  const common = { ...seen, repeat: Number(repeat) };
  return (
    <section
      ref={frame}
      aria-label="Lit view"
      data-testid="lit"
      data-wanted={lineOf(keysOf(states.shown))}
      className="relative size-full overflow-hidden rounded-sm bg-ground"
    >
      <Stage
        {...common}
        pictures={states.shown}
        camera={camera}
        onDrawn={(keys) => frame.current?.setAttribute("data-drawn", keys)}
      />
      {states.over ? (
        <Parted left={states.isKept ? "A stored" : "A before"} right="B now">
          <Stage {...common} pictures={states.over} onDrawn={() => {}} />
        </Parted>
      ) : (
        environment.beside && (
          <Parted left={environment.beside.label} right={environment.chosen.label}>
            <Stage
              {...common}
              around={environment.beside.view}
              pictures={states.shown}
              onDrawn={() => {}}
            />
          </Parted>
        )
      )}
      <div className="absolute top-2.5 left-2.5">
        <Segmented label="Shape" value={standing} options={offered} onChange={setStanding} />
      </div>
      {standing !== "model" && (
        <div className="absolute top-2.5 right-2.5">
          <Segmented label="Repeat" value={repeat} options={repeats} onChange={setRepeat} />
        </div>
      )}
      {waiting && <WaitingForModel waiting={waiting} />}
      <div className="absolute bottom-2.5 left-2.5 flex items-center gap-2">
        <EnvironmentChoice {...environment} />
        <EnvironmentMenu state={environment} onLamp={followBrightest} camera={camera} />
        <Button
          aria-pressed={displaced}
          title="Displace the surface by its height (D)"
          onClick={() => setDisplaced(!displaced)}
          look="toggle"
        >
          <Layers className="size-3.5" aria-hidden="true" /> Displacement
        </Button>
        <Segmented
          label="State"
          value={states.state}
          options={[
            { value: "a", label: states.isKept ? "A stored" : "A before" },
            { value: "b", label: "B now" },
            {
              value: "wipe",
              label: "Both",
              title: "A and B under the same light, with a divider to drag",
            },
          ]}
          onChange={states.show}
        />
        <Button title="Store the current state as A (Shift+X)" onClick={states.keep} look="toggle">
          Set A
        </Button>
      </div>
      <output className="absolute right-2.5 bottom-19 rounded-sm bg-ink/85 px-1.5 text-note text-sheet figures">
        {light.azimuth}° · {light.elevation}°
      </output>
      <TurnRing turn={environment.turn} onTurn={setTurn} />
      <LightDial light={light} onTurn={turnLamp} />
    </section>
  );
}

export default memo(LitWindow);
