// The Bench: flat and lit side by side, the strip of maps, the chosen map's drawer.

import { useQuery } from "@tanstack/react-query";
import { Suspense, useEffect, useMemo, useRef, useState } from "react";
import { Link, Navigate, useLocation, useNavigate, useParams } from "react-router";
import type { MapKind, OperationRead, SetRead, VocabularyRead } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { buttonClass } from "@/parts/button";
import { useCommands } from "@/parts/commands";
import { FaultBoundary, loaded } from "@/parts/fault";
import { recalled, remember } from "@/parts/remembered";
import { useTitle } from "@/parts/title";
import { RecipesDialog } from "@/places/recipes/recipes-dialog";
import { withColor } from "./colors-field";
import { Drawer } from "./drawer";
import { FlatWindow, type Other } from "./flat-window";
import { Header } from "./header";
import { PhotoLight } from "./light-arrow";
import { MapStrip } from "./map-strip";
import { HeadCard } from "./prepare/head-card";
import { PrepareDrawer } from "./prepare/prepare-drawer";
import { type Tool, widthOf } from "./prepare/preparing";
import { SourceWindow } from "./prepare/source-window";
import { useSeams } from "./prepare/use-seams";
import { type About, Readings } from "./readings";
import { type Draft, useDraft } from "./use-draft";
import { usePickPicture } from "./use-pick";
import { usePreview } from "./use-preview";
import { addMap, editing } from "./ways";
import { Windows } from "./windows";

const LitWindow = loaded(() => import("@/lit/lit-window"));
const FULL_SIDE = 1024;
/** The address of the steps that prepare a set, where otherwise a map is named. */
const PREPARE = "prepare";

/** Without a set in the address, the Bench opens on the first one. */
export function BenchDoor() {
  const project = useProject();
  const { data: sets } = useQuery(queries.sets(project));
  if (!sets) return null;
  const last = recalled(`bench/${project}`);
  const first = sets.find((one) => String(one.id) === last) ?? sets[0];
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
  useTitle(set?.name, "Bench");
  if (error) return <p className="m-4 rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>;
  if (!set || !vocabulary) return null;
  return <SetOnBench key={set.id} set={set} vocabulary={vocabulary} />;
}

function SetOnBench({ set, vocabulary }: { set: SetRead; vocabulary: VocabularyRead }) {
  const project = useProject();
  const params = useParams();
  const navigate = useNavigate();
  const state = useDraft(set, project);
  useEffect(() => remember(`bench/${project}`, String(set.id)), [project, set.id]);
  const [moving, setMoving] = useState(false);
  const seenSide = useRef(FULL_SIDE);
  const guideKind = useRef<MapKind>(undefined);
  const kinds = Object.keys(state.draft.maps) as MapKind[];
  const asked = params.kind as MapKind | undefined;
  const prepares = params.kind === PREPARE;
  const usual = prepares ? (guideKind.current ?? kinds[0]) : (kinds[1] ?? kinds[0]);
  const chosen = asked && kinds.includes(asked) ? asked : usual;
  const { pictures, lit, before, facts, error, settled, shows, painted } = usePreview(
    set,
    state.draft,
    moving,
    FULL_SIDE,
    chosen,
    seenSide,
    prepares,
  );
  guideKind.current = facts.guide?.kind;
  // Its depth as stated; while it is by measure, as the last picture measured it.
  const depth = state.draft.surface.depth ?? facts.surface.depth ?? null;
  const { wrap, relief } = facts.surface;
  const tile_size = widthOf(state.draft, facts);
  // Its width as it is prepared, its borders where they meet then. The same object as long as they
  // are the same: the light draws a frame for every new one, and a frame may hold up the page.
  const surface = useMemo(
    () => ({ depth, tile_size, wrap, relief }),
    [depth, tile_size, wrap, relief],
  );
  const [tool, setTool] = useState<Tool | null>(null);
  const [radius, setRadius] = useState(0.02);
  const [tiling, setTiling] = useState(0);
  const seams = useSeams(set.id, state, facts.guide, prepares, moving);
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
  const isNew = (useLocation().state as { isNew?: boolean } | null)?.isNew === true;
  const [readings, setReadings] = useState<About | null>(isNew ? "relief" : null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another map ends picking
  useEffect(() => setParameter(null), [chosen, operation?.name]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another card ends the tools
  useEffect(() => setTool(null), [params.kind]);
  useEffect(() => {
    const end = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      setParameter(null);
      setTool(null);
      setReadings(null);
    };
    addEventListener("keydown", end);
    return () => removeEventListener("keydown", end);
  }, []);
  const isRead = readsPhoto(state.draft);
  const open = (one: MapKind) => navigate(`/${project}/bench/${set.id}/${one}`, { replace: true });
  useCommands([
    ...kinds.map((one, n) => ({
      id: `map-${one}`,
      label: `Show ${vocabulary.kinds.find((k) => k.kind === one)?.title ?? one}`,
      keys: n < 9 ? String(n + 1) : undefined,
      run: () => open(one),
    })),
    {
      id: "prepare",
      label: "Prepare the source: frame, blemishes, light, seams, scale",
      keys: "0",
      run: () => navigate(`/${project}/bench/${set.id}/${PREPARE}`, { replace: true }),
    },
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
      id: "readings",
      label: "Readings of the photo, lit beside each other",
      keys: "q",
      disabled: !isRead,
      run: () => setReadings((now) => (now ? null : "relief")),
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
  const { prepare } = state.draft;
  const side = Math.min(FULL_SIDE, Math.max(facts.width, facts.height));
  function pick(color: string) {
    const asked = operation?.parameters.find((one) => one.name === parameter);
    if (!kind || definition?.how !== "derived" || !asked) return;
    state.settle(
      editing(kind.kind, definition, (now) => {
        const had = String(now.parameters?.[asked.name] ?? asked.default);
        const value = withColor(had, color, asked.most);
        return { ...now, parameters: { ...now.parameters, [asked.name]: value } };
      }),
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
      <Header
        set={set}
        size={facts}
        surface={surface}
        error={error}
        state={state}
        deliver={`/${project}/deliveries?sets=${set.id}`}
        onRecipes={() => setRecipes(true)}
        onReadings={isRead ? () => setReadings((now) => (now ? null : "relief")) : undefined}
      />
      <Windows
        flat={
          prepares && tool && facts.guide ? (
            <SourceWindow
              setId={set.id}
              draft={state.draft}
              state={state}
              guide={facts.guide}
              tool={tool}
              radius={radius}
              onMoving={setMoving}
              onEnd={() => setTool(null)}
            />
          ) : (
            <div className="relative size-full">
              <FlatWindow
                shown={pictures[kind.kind]}
                pick={
                  parameter === null
                    ? null
                    : { shown: picked, label: pickLabel(operation, titleOf), onColor: pick }
                }
                fullWidth={Math.round((side * facts.width) / Math.max(facts.width, facts.height))}
                tiling={tiling}
                others={others}
                kind={kind}
                surface={surface}
                settled={settled}
                shows={shows}
                onPainted={painted}
                seenSide={seenSide}
              />
              <PhotoLight
                state={state}
                kind={kind.kind}
                light={set.light ?? null}
                operation={operation}
                onMoving={setMoving}
              />
              {readings && isRead && (
                <Readings
                  setId={set.id}
                  state={state}
                  about={readings}
                  lit={set.light?.lit === true}
                  operations={vocabulary.operations}
                  onAbout={setReadings}
                  onClose={() => setReadings(null)}
                />
              )}
            </div>
          )
        }
        lit={
          <FaultBoundary what="The lit window" on={set.id}>
            <Suspense fallback={<div className="size-full rounded-sm bg-ground" />}>
              <LitWindow
                pictures={lit}
                before={before}
                surface={surface}
                aspect={facts.width / facts.height}
              />
            </Suspense>
          </FaultBoundary>
        }
      />
      <div className="flex shrink-0">
        <HeadCard
          prepare={prepare}
          guide={facts.guide}
          address={`/${project}/bench/${set.id}/${PREPARE}`}
          chosen={prepares}
        />
        <MapStrip
          draft={state.draft}
          chosen={prepares ? null : kind.kind}
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
      </div>
      <div className="mt-2.5 flex min-h-[172px] shrink-0">
        {prepares ? (
          <PrepareDrawer
            state={state}
            facts={facts}
            seams={seams}
            tool={tool}
            onTool={setTool}
            radius={radius}
            onRadius={setRadius}
            onMoving={setMoving}
            onSeamsChosen={() => setTiling((n) => n + 1)}
            setId={set.id}
            moving={moving}
          />
        ) : (
          <Drawer
            key={kind.kind}
            kind={kind}
            definition={definition}
            state={state}
            world={vocabulary}
            titleOf={titleOf}
            onMoving={setMoving}
            facts={facts}
            tiling={set.tiling ?? null}
            light={set.light ?? null}
            picking={{ parameter, pick: setParameter }}
            setId={set.id}
            moving={moving}
            onReadings={setReadings}
          />
        )}
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

/** Its height is made out of a photo's color: how much relief, light and way up are readings. */
function readsPhoto({ maps: { height } }: Draft): boolean {
  return height?.how === "derived" && height.operation === "height_from_color";
}
