// The Tray: a row per texture set, a column per map kind in use, a mark per target.

import { useQuery } from "@tanstack/react-query";
import { Check, Clock3, Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { MapKind, MapRead, SetRead, TargetPreset } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Button, buttonClass } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { useChosen } from "@/parts/chosen";
import { DropHere } from "@/parts/drop-here";
import { metres, texels } from "@/parts/figures";
import { Badge, Hint, origins } from "@/parts/marks";
import { useEndings } from "@/parts/pictures";
import { useTitle } from "@/parts/title";
import { RecipesDialog } from "@/places/recipes/recipes-dialog";
import { TargetsMenu, useShownTargets } from "./shown-targets";
import { type TakenAs, takenAs, useTakeIn } from "./take-in";

/** Map kinds that some set has, in the order of the vocabulary's derivation. */
export function columnsOf(sets: SetRead[]): MapKind[] {
  const seen = new Set<MapKind>();
  for (const set of sets) for (const map of set.maps) seen.add(map.kind);
  return [...seen];
}

export function Tray() {
  useTitle("Tray");
  const project = useProject();
  const { takenIn } = useEndings();
  const navigate = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const { data: sets, error } = useQuery(queries.sets(project));
  const { data: targets = [] } = useQuery(queries.targets());
  const { data: unreadable = [] } = useQuery(queries.unreadable(project));
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const chosen = useChosen(sets?.map((set) => set.id) ?? []);
  const [recipes, setRecipes] = useState(false);
  const [as, setAs] = useState<TakenAs>("name");
  const { busy, over, take } = useTakeIn(project, as, (taken) => {
    const only = taken[0];
    if (taken.length === 1 && only)
      navigate(`/${project}/bench/${only.set_id}/height`, { state: { isNew: true } });
  });
  const titleOf = (kind: MapKind) =>
    vocabulary?.kinds.find((one) => one.kind === kind)?.title ?? kind;
  const columns = columnsOf(sets ?? []);
  const { shown, ...menu } = useShownTargets(project, targets, sets ?? []);
  const ids = [...chosen.ids].filter((id) => sets?.some((set) => set.id === id));

  return (
    <div className="flex min-h-full flex-col px-4 pb-4">
      <div className="flex h-bar items-center gap-3">
        <h1 className="text-title font-semibold">Tray</h1>
        <span className="figures text-second">
          {sets
            ? `${sets.length} ${sets.length === 1 ? "set" : "sets"} · ${sets.reduce((n, set) => n + set.maps.length, 0)} maps`
            : ""}
        </span>
        <span role="status" className="ml-auto text-second">
          {busy}
        </span>
        <input
          ref={picker}
          type="file"
          multiple
          hidden
          accept={takenIn}
          aria-label="Pictures to take in"
          onChange={(event) => {
            take(event.target.files);
            event.target.value = "";
          }}
        />
        <TargetsMenu targets={targets} {...menu} />
        <span className="text-second">New pictures are</span>
        <span className="w-33">
          <Choice
            label="New pictures are"
            value={as}
            options={takenAs}
            onChange={(next) => setAs(next as TakenAs)}
          />
        </span>
        <Button look="main" disabled={busy !== null} onClick={() => picker.current?.click()}>
          <Plus className="size-4" /> Take in…
        </Button>
      </div>
      {error && <p className="rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>}
      {unreadable.map((one) => (
        <p key={one.id} role="alert" className="mb-2 rounded-md bg-wrong-pale p-3 text-wrong">
          △ {one.why}.
        </p>
      ))}
      {sets && sets.length > 0 && (
        <div className="overflow-x-auto rounded-md border border-rule bg-card">
          <table className="w-full border-collapse">
            <thead>
              <tr className="h-8 border-b border-rule bg-sheet text-small text-second">
                <th className="min-w-56 px-4 text-left font-medium">Texture set</th>
                {columns.map((kind) => (
                  <th key={kind} className="w-19.5 px-1 font-medium">
                    {titleOf(kind)}
                  </th>
                ))}
                {shown.map((target) => (
                  <th key={target.id} className="min-w-28 px-2 font-medium" title={target.note}>
                    {target.title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {sets.map((set) => (
                <SetRow
                  key={set.id}
                  {...{ set, columns, targets: shown, project, titleOf }}
                  chosen={chosen.ids.has(set.id)}
                  onToggle={() => chosen.choose(set.id, false)}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
      {sets && sets.length > 0 && <Legend />}
      {sets && (
        <DropHere
          over={over}
          title={over ? "Let go to take it in" : "Drop a photo of a surface anywhere, or paste it"}
          onClick={() => picker.current?.click()}
        >
          One picture becomes a texture set at once; several, a folder or a zip are sorted in
          Intake. The files stay as they are.
        </DropHere>
      )}
      {ids.length > 0 && (
        <ChosenSets
          count={ids.length}
          deliver={`/${project}/deliveries?sets=${ids.join(",")}`}
          onNone={chosen.clear}
          onRecipes={() => setRecipes(true)}
        />
      )}
      {recipes && sets && (
        <RecipesDialog
          project={project}
          sets={sets.filter((set) => chosen.ids.has(set.id))}
          onClose={() => setRecipes(false)}
        />
      )}
    </div>
  );
}

interface ChosenProps {
  count: number;
  deliver: string;
  onNone: () => void;
  onRecipes: () => void;
}

/** What can be done with the sets that are chosen. */
function ChosenSets({ count, deliver, onNone, onRecipes }: ChosenProps) {
  const link = "no-underline hover:text-sheet hover:underline";
  return (
    <div className="sticky bottom-4 mt-4 flex h-11 items-center gap-4 rounded-md bg-ink px-4 text-sheet">
      <span className="font-semibold">
        {count} {count === 1 ? "set" : "sets"} chosen
      </span>
      <Button look="link" className={link} onClick={onNone}>
        Choose none
      </Button>
      <Button look="link" className={`ml-auto ${link}`} onClick={onRecipes}>
        Apply a recipe…
      </Button>
      <Link to={deliver} className={buttonClass("main")}>
        Deliver…
      </Link>
    </div>
  );
}

interface RowProps {
  set: SetRead;
  columns: MapKind[];
  targets: TargetPreset[];
  project: string;
  titleOf: (kind: MapKind) => string;
  chosen: boolean;
  onToggle: () => void;
}

function SetRow({ set, columns, targets, project, titleOf, chosen, onToggle }: RowProps) {
  const bench = `/${project}/bench/${set.id}`;
  return (
    <tr
      className={`h-19 border-b border-rule last:border-b-0 ${chosen ? "bg-copper-pale/50" : ""}`}
    >
      <td className="px-4">
        <div className="flex items-center gap-2.5">
          <input
            type="checkbox"
            className="size-4 accent-copper"
            aria-label={`Choose ${set.name}`}
            checked={chosen}
            onChange={onToggle}
          />
          <Link to={bench} className="leading-tight hover:text-copper">
            <span className="block font-semibold">{set.name}</span>
            <span className="figures text-second">
              {texels(set.width, set.height)} · {metres(set.prepared_surface.tile_size)}
            </span>
            {set.origin && (
              <span
                className="block max-w-45 truncate text-note text-second"
                title={[set.origin.card, set.origin.licence, set.origin.where]
                  .filter(Boolean)
                  .join(" · ")}
              >
                from {set.origin.card}
              </span>
            )}
          </Link>
        </div>
      </td>
      {columns.map((kind) => (
        <td key={kind} className="px-1">
          <MapCell
            map={set.maps.find((one) => one.kind === kind)}
            title={titleOf(kind)}
            to={`${bench}/${kind}`}
          />
        </td>
      ))}
      {targets.map((target) => (
        <td key={target.id} className="px-2 text-center">
          <Readiness set={set} target={target} project={project} />
        </td>
      ))}
    </tr>
  );
}

function MapCell({ map, title, to }: { map: MapRead | undefined; title: string; to: string }) {
  if (!map)
    return (
      <div title={`no ${title} map`} className="hatched mx-auto size-15 rounded-sm bg-paper" />
    );
  const { definition } = map;
  const origin = origins[definition.how];
  const value =
    definition.how === "constant" && definition.value.length === 1 ? definition.value[0] : null;
  return (
    <Hint text={`${title}: ${origin.word}`}>
      <Link
        to={to}
        aria-label={[title, origin.word, value].filter((one) => one !== null).join(", ")}
        className="relative mx-auto block size-15 overflow-hidden rounded-sm border border-rule bg-ground"
      >
        {value === null ? (
          <img src={map.thumbnail} alt="" loading="lazy" className="size-full object-cover" />
        ) : (
          <span className="grid size-full place-items-center bg-sheet figures">{value}</span>
        )}
        <OriginMark how={definition.how} />
      </Link>
    </Hint>
  );
}

function OriginMark({ how }: { how: MapRead["definition"]["how"] }) {
  if (how === "constant") return null;
  const round = how === "derived" ? "rounded-full" : "";
  return (
    <span
      aria-hidden="true"
      className={`absolute bottom-1 right-1 size-2.25 border border-ink bg-card ${round}`}
    />
  );
}

function Readiness({
  set,
  target,
  project,
}: {
  set: SetRead;
  target: TargetPreset;
  project: string;
}) {
  const state = set.readiness[target.id];
  const look = {
    ready: { tone: "open", text: "ready", why: "Everything it needs is there or derived" },
    delivered: { tone: "good", text: "delivered", why: "Delivered and proven as it is now" },
    stale: { tone: "stale", text: "stale", why: "Changed since it was delivered" },
  } as const;
  const { tone, text, why } = look[state ?? "ready"];
  return (
    <Hint text={why}>
      <Link to={`/${project}/deliveries?sets=${set.id}&targets=${target.id}`}>
        <Badge tone={tone}>
          {state === "delivered" && <Check className="size-3.5" aria-hidden="true" />}
          {state === "stale" && <Clock3 className="size-3.5" aria-hidden="true" />}
          {text}
        </Badge>
      </Link>
    </Hint>
  );
}

function Legend() {
  return (
    <p className="flex gap-5 pt-2.5 text-small text-second">
      <span>{origins.imported.mark} imported</span>
      <span>{origins.derived.mark} derived</span>
      <span>
        <span className="figures">0.7</span> constant
      </span>
      <span className="inline-flex items-center gap-1">
        <span className="hatched inline-block size-3 rounded-sm border border-rule" /> not there
      </span>
    </p>
  );
}
