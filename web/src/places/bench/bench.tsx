// The Bench: flat and lit side by side, the strip of maps, the chosen map's drawer.
import { useQuery } from "@tanstack/react-query";
import { Redo2, Undo2 } from "lucide-react";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import type { MapKind, SetRead, VocabularyRead } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Button, buttonClass } from "@/parts/button";
import { metres } from "@/parts/figures";
import { Badge } from "@/parts/marks";
import { Drawer } from "./drawer";
import { FlatWindow, type Other } from "./flat-window";
import { MapStrip } from "./map-strip";
import { useDraft } from "./use-draft";
import { usePreview } from "./use-preview";
import { addMap } from "./ways";

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
  const { pictures, before, error, settled } = usePreview(set.id, state.draft, moving, side);
  const kinds = Object.keys(state.draft.maps) as MapKind[];
  const asked = params.kind as MapKind | undefined;
  const chosen = asked && kinds.includes(asked) ? asked : (kinds[1] ?? kinds[0]);
  const kind = vocabulary.kinds.find((one) => one.kind === chosen);
  const definition = chosen && state.draft.maps[chosen];
  const titleOf = (one: MapKind) => vocabulary.kinds.find((k) => k.kind === one)?.title ?? one;
  if (!kind || !definition) return <p className="p-4">This set has no maps.</p>;
  const { surface } = state.draft;
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
        <History set={set} step={state.step} />
        <Link to={`/${project}/deliveries?sets=${set.id}`} className={buttonClass("main")}>
          Deliver…
        </Link>
      </div>
      <Windows
        flat={
          <FlatWindow
            shown={pictures[kind.kind]}
            fullWidth={Math.round((side * set.width) / Math.max(set.width, set.height))}
            others={others}
            kind={kind}
            surface={surface}
            settled={settled}
          />
        }
        lit={
          <Suspense fallback={<div className="size-full rounded-sm bg-ground" />}>
            <LitWindow pictures={pictures} surface={surface} aspect={set.width / set.height} />
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
          state.settle(addMap(one, vocabulary.operations));
          navigate(`/${project}/bench/${set.id}/${one.kind}`, { replace: true });
        }}
      />
      <div className="mt-2.5 flex min-h-[172px] shrink-0">
        <Drawer
          key={kind.kind}
          kind={kind}
          definition={definition}
          state={state}
          operations={vocabulary.operations}
          titleOf={titleOf}
          onMoving={setMoving}
        />
      </div>
    </div>
  );
}

/** Undo and redo, also by Ctrl+Z and Ctrl+Shift+Z anywhere but in a field being typed in. */
function History({ set, step }: { set: SetRead; step: (to: "undo" | "redo") => void }) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      if (event.target instanceof HTMLInputElement && event.target.type === "text") return;
      event.preventDefault();
      const to = event.shiftKey ? "redo" : "undo";
      if (to === "redo" ? set.can_redo : set.can_undo) step(to);
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, [set.can_undo, set.can_redo, step]);
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
