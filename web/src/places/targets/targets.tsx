// Targets: list of presets, and the packing grid of the selected one.

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Clock3 } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import type { Schemas, SetRead, TargetRead, TrayRow } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Choice } from "@/parts/choice";
import { useCommands } from "@/parts/commands";
import { withMasks } from "@/parts/kinds";
import { Badge, RemarkLine } from "@/parts/marks";
import { useRemembered } from "@/parts/remembered";
import { useTitle } from "@/parts/title";
import { Conventions } from "./conventions";
import { PackingGrid } from "./grid";
import { kindsIn, packedIn, rowsOf, takesLuminance } from "./packing";
import { Proof } from "./proof";
import { TargetBar } from "./target-bar";
import { type TargetState, useTarget } from "./use-target";
import { useTargetActions } from "./use-targets";

export function Targets() {
  useTitle("Targets");
  const project = useProject();
  const { targetId } = useParams();
  const { data: targets } = useQuery(queries.targets());
  // A renamed target stays open, with its undo history and expanded sections.
  const first = useRef(new Map<string, string>());
  const onRenamed = useCallback((from: string, to: string) => {
    first.current.set(to, first.current.get(from) ?? from);
  }, []);
  if (!targets) return null;
  const target = targets.find((one) => one.id === targetId);
  if (!target) return <Navigate to={`/${project}/targets/${targets[0]?.id}`} replace />;
  return (
    <div className="flex min-h-full flex-col px-4 pb-4">
      <TargetOnGrid
        key={first.current.get(target.id) ?? target.id}
        target={target}
        targets={targets}
        onRenamed={onRenamed}
      />
    </div>
  );
}

function Shelf({ targets, chosen }: { targets: TargetRead[]; chosen: string }) {
  const project = useProject();
  const shelf = useRef<HTMLElement>(null);
  // Once per selection: later edits don't scroll the page.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another target is chosen
  useEffect(() => {
    const link = shelf.current?.querySelector("[aria-current]");
    link?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [chosen]);
  return (
    <nav ref={shelf} aria-label="Targets" className="flex gap-2 overflow-x-auto pb-2.5">
      {targets.map((one) => (
        <Link
          key={one.id}
          to={`/${project}/targets/${one.id}`}
          replace
          title={one.note}
          aria-current={one.id === chosen ? "true" : undefined}
          className="w-43 shrink-0 rounded-md border border-rule bg-sheet px-2.5 py-1.5 leading-tight hover:bg-card aria-[current]:border-copper aria-[current]:bg-card aria-[current]:outline aria-[current]:outline-copper"
        >
          <span className="block truncate font-semibold">{one.title}</span>
          <span className="block truncate text-note text-second figures">
            {one.own ? "◆ " : ""}
            {one.id}
          </span>
        </Link>
      ))}
    </nav>
  );
}

interface OnGridProps {
  target: TargetRead;
  targets: TargetRead[];
  onRenamed: (from: string, to: string) => void;
}

function TargetOnGrid({ target, targets, onRenamed }: OnGridProps) {
  const project = useProject();
  const navigate = useNavigate();
  const { data: tray } = useQuery(queries.tray(project));
  const sets = tray?.rows ?? [];
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const [triedOn, setTriedOn] = useRemembered(`tried/${project}`);
  const [all, setAll] = useState(false);
  const [light, setLight] = useState<number | null>(null);
  const renamed = useCallback(
    (from: string, to: string) => {
      onRenamed(from, to);
      navigate(`/${project}/targets/${to}`, { replace: true });
    },
    [navigate, project, onRenamed],
  );
  const state = useTarget(target, renamed);
  const { preset } = state;
  const shelf = useTargetActions(target, preset, targets);
  const tried = sets.find((one) => String(one.id) === triedOn) ?? sets[0];
  const { data: set } = useQuery({ ...queries.set(tried?.id ?? 0), enabled: tried !== undefined });
  const {
    data: trial,
    isFetching,
    error,
  } = useQuery({
    ...queries.targetPreview(preset, set?.id ?? null, set?.version ?? 0, light),
    placeholderData: keepPreviousData,
  });
  const present = useMemo(() => new Set<string>(set?.maps.map((map) => map.kind)), [set]);
  const packed = useMemo(() => packedIn(set?.maps ?? []), [set]);
  const used = kindsIn(preset);
  const kinds = vocabulary ? withMasks(vocabulary, [...used, ...present]).kinds : [];
  const rows = rowsOf(
    kinds,
    (kind) => all || used.has(kind) || present.has(kind),
    (kind) => all || takesLuminance(preset, kind),
  );
  useCommands([
    {
      id: "undo",
      label: "Undo",
      keys: "Ctrl+Z",
      disabled: !state.undo,
      run: () => state.undo?.(),
    },
    {
      id: "redo",
      label: "Redo",
      keys: "Ctrl+Shift+Z",
      disabled: !state.redo,
      run: () => state.redo?.(),
    },
    { id: "copy-target", label: "Duplicate this target", run: shelf.copy },
  ]);
  return (
    <>
      <TargetBar target={target} targets={targets} state={state} shelf={shelf} />
      <Shelf targets={targets} chosen={target.id} />
      <TrialBar
        own={target.own}
        state={state}
        sets={sets}
        set={set}
        onSet={setTriedOn}
        all={all}
        onAll={setAll}
        isTrying={isFetching}
      />
      <Stale sets={sets} targetId={target.id} />
      {(error ?? trial?.error) && (
        <p role="alert" className="mb-2 rounded-md bg-wrong-pale px-3 py-1.5 text-wrong">
          {error?.message ?? trial?.error}
        </p>
      )}
      <div className="min-h-0 grow overflow-auto rounded-md border border-rule bg-card">
        <PackingGrid
          preset={preset}
          rows={rows}
          kinds={kinds}
          formats={vocabulary?.formats ?? []}
          present={present}
          packed={packed}
          trial={trial}
          locked={!target.own}
          onChange={state.change}
        />
      </div>
      {trial?.proof && set && (
        <Proof
          proof={trial.proof}
          preset={preset}
          setId={set.id}
          light={light}
          onLight={setLight}
        />
      )}
      {trial && <PreviewResult trial={trial} />}
    </>
  );
}

interface TrialProps {
  own: boolean;
  state: TargetState;
  sets: TrayRow[];
  set: SetRead | undefined;
  onSet: (id: string) => void;
  all: boolean;
  onAll: (all: boolean) => void;
  isTrying: boolean;
}

/** Grid view: example set, visible rows, and legend. */
function TrialBar({ own, state, sets, set, onSet, all, onAll, isTrying }: TrialProps) {
  const { preset } = state;
  return (
    <div className="flex h-10 items-center gap-3">
      <span className="text-second">Preview with</span>
      <span className="w-47.5">
        <Choice
          label="Preview with"
          value={String(set?.id ?? "")}
          options={sets.map((one) => ({ value: String(one.id), label: one.name }))}
          onChange={onSet}
        />
      </span>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="size-4 accent-copper"
          checked={all}
          onChange={() => onAll(!all)}
        />
        all maps
      </label>
      {own ? (
        <Conventions preset={preset} onChange={state.change} />
      ) : (
        <span className="text-second">
          green {preset.normal_y} {preset.resampling === "nearest" && " · pixel art"}
        </span>
      )}
      <span className="text-small text-second">
        ● connected ◐ with changes ◔ shared by code ranges · <i>not in this set</i>
      </span>
      <span role="status" className="ml-auto text-small text-second">
        {isTrying ? "trying…" : ""}
      </span>
    </div>
  );
}

/** Further results of a delivery besides its files, and remarks. */
function PreviewResult({ trial }: { trial: Schemas["TargetPreviewRead"] }) {
  return (
    <>
      {trial.documents.length > 0 && (
        <output aria-label="Documents" className="block pt-2.5">
          <span className="text-second">Material documents </span>
          <span className="figures">{trial.documents.join(", ")}</span>
        </output>
      )}
      {trial.remarks.length > 0 && (
        <ul aria-label="Messages" className="pt-1.5">
          {trial.remarks.map((one) => (
            <li key={one.text}>
              <RemarkLine {...one} />
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** Deliveries for this target that are outdated. */
function Stale({ sets, targetId }: { sets: TrayRow[]; targetId: string }) {
  const project = useProject();
  const stale = sets.filter((one) => one.delivered[targetId] === "stale");
  if (stale.length === 0) return null;
  const ids = stale.map((one) => one.id).join(",");
  return (
    <p role="status" className="mb-2 flex items-center gap-2 text-list">
      <Badge tone="stale">
        <Clock3 className="size-3.5" aria-hidden="true" /> stale
      </Badge>
      <span>delivered before the last change: {stale.map((one) => one.name).join(", ")}</span>
      <Link
        to={`/${project}/deliveries?sets=${ids}&targets=${targetId}`}
        className="text-copper underline"
      >
        Deliver again
      </Link>
    </p>
  );
}
