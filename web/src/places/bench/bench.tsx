// The Bench: flat and lit side by side, the strip of maps, the chosen map's drawer.
import { useQuery } from "@tanstack/react-query";
import { BookOpen, Redo2, Undo2 } from "lucide-react";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import type { MapKind, OperationRead, SetRead, VocabularyRead } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Button, buttonClass } from "@/parts/button";
import { useCommands } from "@/parts/commands";
import { metres } from "@/parts/figures";
import { Badge } from "@/parts/marks";
import { RecipesDialog } from "@/places/recipes/recipes-dialog";
import { withColor } from "./colors-field";
import { Drawer } from "./drawer";
import { FlatWindow, type Other } from "./flat-window";
import { MapStrip } from "./map-strip";
import { useDraft } from "./use-draft";
import { usePickPicture } from "./use-pick";
import { usePreview } from "./use-preview";
import { addMap, replacing } from "./ways";

const LitWindow = lazy(() => import("@/lit/lit-window"));
const FULL_SIDE = 1024;
const SPLIT_KEPT = "sieve:bench-split";

/** Without a set in the address, the Bench opens on the first one. */
export function BenchDoor() {
  const project = useProject();
  const { data: sets } = useQuery(queries.sets(project));
  if (!sets) return null;
  const first = sets[0];
  if (first) return <Navigate to={`/${project}/bench/${first.id}`} replace />;
  return (
    <div className="p-10 text-center">
      <p className="mb-3 text-[15px]">Nothing to work on yet.</p>
      <Link to={`/${project}/tray`} className={buttonClass("main")}>
        Take in a photo on the Tray
      </Link>
    </div>
  );
}

export function Bench() {
  const { setId } = useParams();
  const { data: set, error } = useQuery(queries.set(Number(setId)));
  const { data: vocabulary } = useQuery(queries.vocabulary());
  if (error) return <p className="m-4 rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>;
  if (!set || !vocabulary) return null;
  return <SetOnBench key={set.id} set={set} vocabulary={vocabulary} />;
}

function SetOnBench({ set, vocabulary }: { set: SetRead; vocabulary: VocabularyRead }) {
  const project = useProject();
  const params = useParams();
  const navigate = useNavigate();
  const state = useDraft(set, project);
  const side = Math.min(FULL_SIDE, Math.max(set.width, set.height));
  const [moving, setMoving] = useState(false);
  const seenSide = useRef(side);
  const kinds = Object.keys(state.draft.maps) as MapKind[];
  const asked = params.kind as MapKind | undefined;
  const chosen = asked && kinds.includes(asked) ? asked : (kinds[1] ?? kinds[0]);
  const { pictures, lit, before, error, settled, shows } = usePreview(
    set.id,
    state.draft,
    moving,
    side,
    chosen,
    seenSide,
  );
  const kind = vocabulary.kinds.find((one) => one.kind === chosen);
  const definition = chosen && state.draft.maps[chosen];
  const operation = vocabulary.operations.find(
    (one) => definition?.how === "derived" && one.name === definition.operation,
  );
  const [parameter, setParameter] = useState<string | null>(null);
  const picked = usePickPicture(
    set.id,
    state.draft,
    chosen,
    operation,
    pictures,
    parameter !== null,
  );
  const [recipes, setRecipes] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another map ends picking
  useEffect(() => setParameter(null), [chosen, operation?.name]);
  useEffect(() => {
    const end = (event: KeyboardEvent) => event.key === "Escape" && setParameter(null);
    addEventListener("keydown", end);
    return () => removeEventListener("keydown", end);
  }, []);
  const open = (one: MapKind) => navigate(`/${project}/bench/${set.id}/${one}`, { replace: true });
  useCommands([
    ...kinds.map((one, n) => ({
      id: `map-${one}`,
      label: `Show ${vocabulary.kinds.find((k) => k.kind === one)?.title ?? one}`,
      keys: n < 9 ? String(n + 1) : undefined,
      run: () => open(one),
    })),
    {
      id: "undo",
      label: "Undo",
      keys: "Ctrl+Z",
      disabled: !set.can_undo,
      run: () => state.step("undo"),
    },
    {
      id: "redo",
      label: "Redo",
      keys: "Ctrl+Shift+Z",
      disabled: !set.can_redo,
      run: () => state.step("redo"),
    },
    {
      id: "recipes",
      label: "Recipes, and settings for other sets",
      keys: "Shift+R",
      run: () => setRecipes(true),
    },
    {
      id: "deliver",
      label: "Deliver this set",
      run: () => navigate(`/${project}/deliveries?sets=${set.id}`),
    },
  ]);
  const titleOf = (one: MapKind) => vocabulary.kinds.find((k) => k.kind === one)?.title ?? one;
  if (!kind || !definition) return <p className="p-4">This set has no maps.</p>;
  const { surface } = state.draft;
  function pick(color: string) {
    const asked = operation?.parameters.find((one) => one.name === parameter);
    if (!kind || definition?.how !== "derived" || !asked) return;
    const parameters = definition.parameters ?? {};
    const had = String(parameters[asked.name] ?? asked.default);
    const value = withColor(had, color, asked.most);
    state.settle(
      replacing(kind.kind, { ...definition, parameters: { ...parameters, [asked.name]: value } }),
    );
    if (asked.most === 1) setParameter(null);
  }
  const was = before[kind.kind];
  const others = kinds.flatMap((one) => {
    const shown = pictures[one];
    return shown && one !== kind.kind ? [{ value: one, label: titleOf(one), shown }] : [];
  }) as Other[];
  if (was) others.unshift({ value: "before", label: "as at first", shown: was });
  return (
    <div className="flex h-full min-h-[640px] flex-col px-4 pb-3.5">
      <div className="flex h-[50px] shrink-0 items-center gap-3">
        <h1 className="text-[19px] font-semibold">{set.name}</h1>
        <span className="text-second figures">
          {set.width} × {set.height} · {metres(surface.tile_size)} ·{" "}
          {Math.round(set.width / surface.tile_size)} px/m
        </span>
        <Badge tone="calm">{surface.wrap ? "tiles both ways" : "borders end"}</Badge>
        {error && <Badge tone="wrong">△ {error}</Badge>}
        <span role="status" className="ml-auto text-[12.5px] text-second">
          {state.saving ? "saving…" : "saved"}
        </span>
        <Button onClick={() => setRecipes(true)} title="Shift+R">
          <BookOpen className="size-4" /> Recipes…
        </Button>
        <History set={set} step={state.step} />
        <Link to={`/${project}/deliveries?sets=${set.id}`} className={buttonClass("main")}>
          Deliver…
        </Link>
      </div>
      <Windows
        flat={
          <FlatWindow
            shown={pictures[kind.kind]}
            pick={
              parameter === null
                ? null
                : { shown: picked, label: pickLabel(operation, titleOf), onColor: pick }
            }
            fullWidth={Math.round((side * set.width) / Math.max(set.width, set.height))}
            others={others}
            kind={kind}
            surface={surface}
            settled={settled}
            shows={shows}
            seenSide={seenSide}
          />
        }
        lit={
          <Suspense fallback={<div className="size-full rounded-sm bg-ground" />}>
            <LitWindow
              pictures={lit}
              before={before}
              surface={surface}
              aspect={set.width / set.height}
            />
          </Suspense>
        }
      />
      <MapStrip
        draft={state.draft}
        chosen={kind.kind}
        pictures={pictures}
        operations={vocabulary.operations}
        titleOf={titleOf}
        addressOf={(one) => `/${project}/bench/${set.id}/${one}`}
        missing={vocabulary.kinds.filter((one) => !kinds.includes(one.kind))}
        onAdd={(one) => {
          state.settle(addMap(one, vocabulary));
          open(one.kind);
        }}
      />
      <div className="mt-2.5 flex min-h-[172px] shrink-0">
        <Drawer
          key={kind.kind}
          kind={kind}
          definition={definition}
          state={state}
          world={vocabulary}
          titleOf={titleOf}
          onMoving={setMoving}
          picking={{ parameter, pick: setParameter }}
        />
      </div>
      {recipes && <RecipesDialog project={project} of={set} onClose={() => setRecipes(false)} />}
    </div>
  );
}

/** What colors are picked from, in words. */
function pickLabel(operation: OperationRead | undefined, titleOf: (kind: MapKind) => string) {
  const input = operation?.inputs[0];
  return input ? titleOf(input) : (operation?.slots[0]?.label ?? "the picture");
}

function History({ set, step }: { set: SetRead; step: (to: "undo" | "redo") => void }) {
  return (
    <>
      <Button disabled={!set.can_undo} title="Ctrl+Z" onClick={() => step("undo")}>
        <Undo2 className="size-4" /> Undo
      </Button>
      <Button
        disabled={!set.can_redo}
        title="Ctrl+Shift+Z"
        aria-label="Redo"
        onClick={() => step("redo")}
      >
        <Redo2 className="size-4" />
      </Button>
    </>
  );
}

/** Two windows and a divider between them that is dragged or moved with the arrow keys. */
function Windows({ flat, lit }: { flat: React.ReactNode; lit: React.ReactNode }) {
  const frame = useRef<HTMLDivElement>(null);
  const [split, setSplit] = useState(() => Number(localStorage.getItem(SPLIT_KEPT)) || 0.5);
  const put = useCallback((share: number) => {
    const kept = Math.min(0.8, Math.max(0.2, share));
    localStorage.setItem(SPLIT_KEPT, String(kept));
    setSplit(kept);
  }, []);
  return (
    <div ref={frame} className="flex min-h-[240px] grow">
      <div style={{ width: `${split * 100}%` }} className="min-w-0">
        {flat}
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a divider that moves is no <hr> */}
      <div
        role="separator"
        aria-label="Divider between flat and lit"
        aria-orientation="vertical"
        aria-valuenow={Math.round(split * 100)}
        aria-valuemin={20}
        aria-valuemax={80}
        tabIndex={0}
        className="group grid w-3 shrink-0 cursor-col-resize touch-none place-items-center"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={(event) => {
          const box = frame.current?.getBoundingClientRect();
          if (event.buttons && box) put((event.clientX - box.left) / box.width);
        }}
        onKeyDown={(event) => {
          const turn = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
          if (turn) put(split + turn);
        }}
      >
        <span className="h-10 w-[3px] rounded-full bg-rule group-hover:bg-copper" />
      </div>
      <div className="min-w-0 grow">{lit}</div>
    </div>
  );
}
