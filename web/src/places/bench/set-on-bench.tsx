// A set on the Bench: views, map cards, and the settings of the selected map.
import { type ReactNode, Suspense, useState } from "react";
import type { KindRead, MapDefinition, SetRead, VocabularyRead } from "@/api/client";
import { ErrorBoundary, loaded } from "@/parts/error-boundary";
import { BenchChecklist } from "@/places/checklist/bench-checklist";
import { RecipesDialog } from "@/places/recipes/recipes-dialog";
import { useBenchCommands } from "./bench-commands";
import { CaptureComparison } from "./captures/capture-comparison";
import { Drawer } from "./drawer";
import { FlatWindow, type Other } from "./flat-window";
import { Header } from "./header";
import { Readings } from "./interpretations";
import { PhotoLight } from "./light-arrow";
import { addMap } from "./map-definitions";
import { MapStrip } from "./map-strip";
import { PreparationCard } from "./prepare/head-card";
import { PrepareDrawer } from "./prepare/prepare-drawer";
import { SourceWindow } from "./prepare/source-window";
import { useSeams } from "./prepare/use-seams";
import { type BenchState, FULL_SIDE, useBench } from "./use-bench";
import { usePickPicture } from "./use-pick";
import { Windows } from "./windows";

const LitWindow = loaded(() => import("@/lit/lit-window"));

export function SetOnBench({ set, vocabulary }: { set: SetRead; vocabulary: VocabularyRead }) {
  const bench = useBench(set, vocabulary);
  useBenchCommands(bench, vocabulary.operations);
  const { state, preview, kind, definition, prepares, moving, setMoving, tool, setTool } = bench;
  const { facts } = preview;
  const seams = useSeams(set.id, state, facts.guide, prepares, moving);
  const [radius, setRadius] = useState(0.02);
  const [tiling, setTiling] = useState(0);
  const [held, setHeld] = useState<string | null>(null);
  if (!kind || !definition) return <p className="p-4">This set has no maps.</p>;
  const drawing = prepares && tool && facts.guide;
  return (
    <div className="flex h-full min-h-160 flex-col px-4 pb-3.5">
      <Header
        set={set}
        size={facts}
        sheet={bench.sheet}
        surface={bench.surface}
        error={preview.error}
        state={state}
        deliver={bench.deliver}
        project={bench.project}
        checklist={bench.checklist}
        model={bench.madeFor}
        onChecklist={() => bench.setChecklist((now) => !now)}
        onRecipes={() => bench.setRecipes(true)}
        onReadings={
          bench.isRead ? () => bench.setReadings((now) => (now ? null : "relief")) : undefined
        }
      />
      <Windows
        flat={
          drawing ? (
            <SourceWindow
              setId={set.id}
              draft={state.draft}
              state={state}
              guide={drawing}
              tool={tool}
              radius={radius}
              onMoving={setMoving}
              onEnd={() => setTool(null)}
            />
          ) : (
            <Flat bench={bench} kind={kind} tiling={tiling}>
              {prepares && held && state.draft.captures && (
                <CaptureComparison
                  setId={set.id}
                  draft={state.draft}
                  captures={state.draft.captures}
                  source={held}
                  moving={moving}
                  onHold={setHeld}
                />
              )}
            </Flat>
          )
        }
        lit={<Lit bench={bench} />}
        over={
          bench.checklist && (
            <BenchChecklist
              project={bench.project}
              set={set}
              unsaved={state.saving.state !== "saved"}
              onClose={() => bench.setChecklist(false)}
            />
          )
        }
      />
      <Cards bench={bench} chosen={kind} />
      <div className="mt-2.5 flex min-h-43 shrink-0">
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
            held={held}
            onHold={setHeld}
          />
        ) : (
          <ChosenMap bench={bench} kind={kind} definition={definition} />
        )}
      </div>
      {bench.recipes && (
        <RecipesDialog project={bench.project} of={set} onClose={() => bench.setRecipes(false)} />
      )}
    </div>
  );
}

interface ChosenProps {
  bench: BenchState;
  kind: KindRead;
}

/** The flat view with its overlays: light direction of the photo, interpretations. */
function Flat({
  bench,
  kind,
  tiling,
  children,
}: ChosenProps & { tiling: number; children?: ReactNode }) {
  const { set, state, operation, titleOf, picking, readings } = bench;
  const { pictures, before, facts, settled, shows, waiting, painted } = bench.preview;
  const isPicking = picking.parameter !== null;
  const picked = usePickPicture(set.id, state.draft, kind.kind, operation, pictures, isPicking);
  const was = before[kind.kind];
  const others: Other[] = bench.kinds.flatMap((one) => {
    const shown = pictures[one];
    return shown && one !== kind.kind ? [{ value: one, label: titleOf(one), shown }] : [];
  });
  if (was) others.unshift({ value: "before", label: "before", shown: was });
  const longer = Math.max(facts.width, facts.height);
  return (
    <div className="relative size-full">
      <FlatWindow
        shown={pictures[kind.kind]}
        pick={isPicking ? { shown: picked, label: picking.from, onColor: picking.take } : null}
        fullWidth={Math.round((Math.min(FULL_SIDE, longer) * facts.width) / longer)}
        tiling={tiling}
        others={others}
        islands={bench.islands}
        sheet={bench.sheet}
        kind={kind}
        surface={bench.surface}
        settled={settled}
        waiting={waiting}
        shows={shows}
        onPainted={painted}
        seenSide={bench.seenSide}
      />
      <PhotoLight
        state={state}
        kind={kind.kind}
        light={set.light ?? null}
        operation={operation}
        onMoving={bench.setMoving}
      />
      {readings && bench.isRead && (
        <Readings
          setId={set.id}
          state={state}
          about={readings}
          lit={set.light?.lit === true}
          operations={bench.vocabulary.operations}
          onAbout={bench.setReadings}
          onClose={() => bench.setReadings(null)}
        />
      )}
      {children}
    </div>
  );
}

function Lit({ bench }: { bench: BenchState }) {
  const { lit, before, facts } = bench.preview;
  return (
    <ErrorBoundary what="The lit view" on={bench.set.id}>
      <Suspense fallback={<div className="size-full rounded-sm bg-ground" />}>
        <LitWindow
          pictures={lit}
          before={before}
          surface={bench.surface}
          aspect={facts.width / facts.height}
          model={bench.onModel}
          waiting={bench.waiting}
        />
      </Suspense>
    </ErrorBoundary>
  );
}

/** Map cards: the preparation, then the maps. */
function Cards({ bench, chosen }: { bench: BenchState; chosen: KindRead }) {
  const { state, preview, vocabulary, prepares } = bench;
  return (
    <div className="flex shrink-0">
      <PreparationCard
        prepare={state.draft.prepare}
        guide={preview.facts.guide}
        address={bench.prepare}
        chosen={prepares}
      />
      <MapStrip
        draft={state.draft}
        chosen={prepares ? null : chosen.kind}
        pictures={preview.pictures}
        operations={vocabulary.operations}
        titleOf={bench.titleOf}
        addressOf={bench.addressOf}
        missing={vocabulary.kinds.filter((one) => !bench.kinds.includes(one.kind))}
        onAdd={(one) => {
          state.commit(addMap(one, vocabulary));
          bench.open(one.kind);
        }}
      />
    </div>
  );
}

function ChosenMap({ bench, kind, definition }: ChosenProps & { definition: MapDefinition }) {
  const { set } = bench;
  return (
    <Drawer
      key={kind.kind}
      kind={kind}
      definition={definition}
      state={bench.state}
      world={bench.vocabulary}
      titleOf={bench.titleOf}
      onMoving={bench.setMoving}
      facts={bench.preview.facts}
      tiling={set.tiling ?? null}
      light={set.light ?? null}
      picking={bench.picking}
      setId={set.id}
      moving={bench.moving}
      onReadings={bench.setReadings}
    />
  );
}
