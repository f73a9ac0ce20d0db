// A set in the Tray: lit picture, name, maps, and delivery states.
import { Check, Clock3, NotebookPen } from "lucide-react";
import { memo } from "react";
import { Link } from "react-router";
import type { MapKind, MapRead, SetRead, TargetPreset, TrayRow } from "@/api/client";
import { metres, texels, words } from "@/parts/format";
import { maskKind } from "@/parts/kinds";
import { Badge, origins } from "@/parts/marks";
import { weights } from "@/places/checklist/finding";
import { useSetDetails } from "./use-set-details";

export const ROW = 76;

export interface RowProps {
  row: TrayRow;
  columns: MapKind[];
  targets: TargetPreset[];
  project: string;
  titles: ReadonlyMap<MapKind, string>;
  chosen: boolean;
  onChoose: (id: number, extend: boolean) => void;
  onStep: (id: number, by: number, extend: boolean) => void;
}

export const SetRow = memo(function SetRow(props: RowProps) {
  const { row, columns, targets, project, titles, chosen, onChoose, onStep } = props;
  const facts = useSetDetails(project, row);
  const bench = `/${project}/bench/${row.id}`;
  return (
    <tr className={`h-19 border-b border-rule ${chosen ? "bg-copper-pale/50" : ""}`}>
      <td className="px-3">
        <div className="flex items-center gap-2.5">
          <input
            type="checkbox"
            data-row={row.id}
            className="size-4 shrink-0 accent-copper"
            aria-label={`Select ${row.name}`}
            checked={chosen}
            onChange={() => {}}
            onClick={(event) => onChoose(row.id, event.shiftKey)}
            onKeyDown={(event) => {
              const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
              if (!by) return;
              event.preventDefault();
              onStep(row.id, by, event.shiftKey);
            }}
          />
          <Link
            to={bench}
            tabIndex={-1}
            aria-hidden="true"
            className="size-15 shrink-0 overflow-hidden rounded-sm border border-rule bg-ground"
          >
            {facts && <img src={facts.lit} alt="" className="size-full object-cover" />}
          </Link>
          <Names row={row} facts={facts} bench={bench} />
        </div>
      </td>
      {columns.map((kind) => (
        <td key={kind} className="px-1">
          <MapCell
            how={row.maps[kind]}
            map={facts?.maps.find((one) => one.kind === kind)}
            title={titles.get(kind) ?? maskKind(kind).title}
            to={`${bench}/${kind}`}
          />
        </td>
      ))}
      {targets.map((target) => (
        <td key={target.id} className="px-2 text-center">
          <Standing row={row} target={target} project={project} />
        </td>
      ))}
    </tr>
  );
});

function Names({
  row,
  facts,
  bench,
}: {
  row: TrayRow;
  facts?: SetRead | undefined;
  bench: string;
}) {
  const origin = facts?.origin;
  return (
    <div className="min-w-0 leading-tight">
      <Link to={bench} className="block truncate font-semibold hover:text-copper" title={row.name}>
        {row.name}
      </Link>
      <span className="block figures text-second">
        {facts
          ? `${texels(facts.width, facts.height)} · ${metres(facts.prepared_surface.tile_size)}`
          : "…"}
        <Found row={row} bench={bench} />
        {row.notes && (
          <span title={row.notes}>
            <NotebookPen className="ml-1.5 inline size-3.5" aria-label={`Note: ${row.notes}`} />
          </span>
        )}
      </span>
      {(row.tags.length > 0 || row.card) && (
        <span
          className="block max-w-45 truncate text-note text-second"
          title={[row.tags.join(", "), row.card, origin?.licence, origin?.where]
            .filter(Boolean)
            .join(" · ")}
        >
          {row.tags.map((tag) => (
            <span
              key={tag}
              className="mr-1 inline-block rounded-sm border border-rule bg-sheet px-1 leading-snug"
            >
              {tag}
            </span>
          ))}
          {row.card && `source card ${row.card}`}
        </span>
      )}
    </div>
  );
}

/** Open checklist findings: symbol and count; a click opens the checklist. */
function Found({ row, bench }: { row: TrayRow; bench: string }) {
  const grave = row.findings[0];
  if (!grave) return null;
  const { Sign, look } = weights[grave.weight];
  const findings = row.findings.map((one) => words(one.rule)).join(", ");
  return (
    <Link
      to={bench}
      state={{ checklist: true }}
      title={`Checklist: ${findings}`}
      aria-label={`Checklist: ${findings}`}
      className={`ml-1.5 inline-flex items-center gap-0.5 align-[-2px] ${look}`}
    >
      <Sign className="size-3.5" aria-hidden="true" />
      {row.findings.length > 1 && <span className="text-note">{row.findings.length}</span>}
    </Link>
  );
}

interface CellProps {
  how: TrayRow["maps"][string] | undefined;
  map: MapRead | undefined;
  title: string;
  to: string;
}

function MapCell({ how, map, title, to }: CellProps) {
  if (!how)
    return (
      <div title={`no ${title} map`} className="hatched mx-auto size-15 rounded-sm bg-paper" />
    );
  const origin = origins[how];
  const definition = map?.definition;
  const value =
    definition?.how === "constant" && definition.value.length === 1 ? definition.value[0] : null;
  return (
    <Link
      to={to}
      title={`${title}: ${origin.word}`}
      aria-label={[title, origin.word, value].filter((one) => one !== null).join(", ")}
      className="relative mx-auto block size-15 overflow-hidden rounded-sm border border-rule bg-ground"
    >
      {value !== null && (
        <span className="grid size-full place-items-center bg-sheet figures">{value}</span>
      )}
      {value === null && map && (
        <img src={map.thumbnail} alt="" loading="lazy" className="size-full object-cover" />
      )}
      <OriginMark how={how} />
    </Link>
  );
}

function OriginMark({ how }: { how: MapRead["definition"]["how"] }) {
  if (how === "constant") return null;
  const round = how === "derived" ? "rounded-full" : "";
  return (
    <span
      aria-hidden="true"
      className={`absolute right-1 bottom-1 size-2.25 border border-ink bg-card ${round}`}
    />
  );
}

const standings = {
  ready: {
    tone: "open",
    text: "ready",
    why: "Not delivered yet; the required maps exist or can be derived",
  },
  delivered: { tone: "good", text: "delivered", why: "Delivered and verified" },
  stale: { tone: "stale", text: "stale", why: "Changed since the last delivery" },
} as const;

interface StandingProps {
  row: TrayRow;
  target: TargetPreset;
  project: string;
}

function Standing({ row, target, project }: StandingProps) {
  const state = row.delivered[target.id] ?? "ready";
  const { tone, text, why } = standings[state];
  return (
    <Link title={why} to={`/${project}/deliveries?sets=${row.id}&targets=${target.id}`}>
      <Badge tone={tone}>
        {state === "delivered" && <Check className="size-3.5" aria-hidden="true" />}
        {state === "stale" && <Clock3 className="size-3.5" aria-hidden="true" />}
        {text}
      </Badge>
    </Link>
  );
}

export function Legend() {
  return (
    <p className="flex shrink-0 gap-5 pt-2.5 text-small text-second">
      <span>{origins.imported.mark} imported</span>
      <span>{origins.derived.mark} derived</span>
      <span>
        <span className="figures">0.7</span> constant
      </span>
      <span className="inline-flex items-center gap-1">
        <span className="hatched inline-block size-3 rounded-sm border border-rule" /> missing
      </span>
    </p>
  );
}
