// Deliveries: choose sets × targets, read what will be written, start; below, what was delivered.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, Clock3, FolderOutput, X } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { answer, api, type DeliveryRead, type DryRunPartRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { Button } from "@/parts/button";
import { underRoot, when, words } from "@/parts/figures";
import { Badge, RemarkLine } from "@/parts/marks";
import { useTitle } from "@/parts/title";

function listed(text: string | null): string[] {
  return text ? text.split(",").filter(Boolean) : [];
}

export function Deliveries() {
  useTitle("Deliveries");
  const project = useProject();
  const navigate = useNavigate();
  const client = useQueryClient();
  const [params, setParams] = useSearchParams();
  const sets = useQuery(queries.tray(project)).data?.rows ?? [];
  const { data: targets = [] } = useQuery(queries.targets());
  // The address remembers the choice; the state answers at once.
  const [chosen, setChosen] = useState(() => ({
    sets: listed(params.get("sets")),
    targets: listed(params.get("targets")),
  }));
  const setIds = chosen.sets.map(Number).filter((id) => sets.some((set) => set.id === id));
  const targetIds = chosen.targets;
  const dry = useQuery(queries.dryRun(project, setIds, targetIds));
  const parts = setIds.length && targetIds.length ? (dry.data ?? []) : [];
  const files = parts.reduce(
    (sum, part) => sum + part.files.length + Object.keys(part.other_files).length,
    0,
  );
  const blocked = parts.filter((part) => part.error).length;
  const deliver = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/projects/{project}/deliveries", {
          params: { path: { project } },
          body: { set_ids: setIds, target_ids: targetIds },
        }),
      ),
    onSuccess: (delivery) => {
      client.setQueryData(queries.delivery(delivery.id).queryKey, delivery);
      void refresh(client, queries.deliveries(project).queryKey);
      navigate(`/${project}/deliveries/${delivery.id}`);
    },
  });

  function toggle(name: "sets" | "targets", value: string) {
    const before = chosen[name];
    const after = before.includes(value)
      ? before.filter((one) => one !== value)
      : [...before, value];
    const next = { ...chosen, [name]: after };
    setChosen(next);
    const kept = Object.entries(next).filter(([, ids]) => ids.length > 0);
    setParams(Object.fromEntries(kept.map(([key, ids]) => [key, ids.join(",")])), {
      replace: true,
    });
  }

  return (
    <div className="px-4 pb-6">
      <div className="flex h-bar items-center gap-3">
        <h1 className="text-title font-semibold">Deliveries</h1>
      </div>
      <section
        aria-label="New delivery"
        className="grid grid-cols-[264px_1fr] rounded-md border border-rule bg-card"
      >
        <div className="border-r border-rule bg-sheet p-4">
          <Choice
            title="Texture sets"
            empty="Take in a photo on the Tray first."
            options={sets.map((set) => ({
              value: String(set.id),
              label: set.name,
              note: set.tags.join(", "),
            }))}
            chosen={setIds.map(String)}
            onToggle={(value) => toggle("sets", value)}
          />
          <Choice
            title="Targets"
            empty=""
            options={targets.map((one) => ({ value: one.id, label: one.title, note: one.id }))}
            chosen={targetIds}
            onToggle={(value) => toggle("targets", value)}
          />
          <Button
            look="main"
            className="mt-2 w-full justify-center"
            disabled={!parts.length || blocked > 0 || deliver.isPending}
            onClick={() => deliver.mutate()}
          >
            <FolderOutput className="size-4" />
            {parts.length ? `Deliver ${files} files` : "Deliver"}
          </Button>
        </div>
        <div className="min-h-60 p-4">
          {!parts.length && (
            <p className="grid h-full place-items-center text-second">
              {dry.error?.message ??
                "Choose sets and targets to see every file that will be written."}
            </p>
          )}
          {parts.map((part) => (
            <DryPart
              key={`${part.set_id}-${part.target_id}`}
              part={part}
              title={targets.find((one) => one.id === part.target_id)?.title}
            />
          ))}
        </div>
      </section>
      <History project={project} />
    </div>
  );
}

interface ChoiceProps {
  title: string;
  empty: string;
  options: { value: string; label: string; note: string }[];
  chosen: string[];
  onToggle: (value: string) => void;
}

function Choice({ title, empty, options, chosen, onToggle }: ChoiceProps) {
  return (
    <fieldset className="mb-4 min-w-0">
      <legend className="mb-1 text-small font-medium text-second">{title}</legend>
      {options.length === 0 && <p className="text-second">{empty}</p>}
      {options.map((option) => (
        <label key={option.value} className="flex items-center gap-2 py-1">
          <input
            type="checkbox"
            className="size-4 accent-copper"
            checked={chosen.includes(option.value)}
            onChange={() => onToggle(option.value)}
          />
          <span className="min-w-0 leading-tight">
            <span className="block truncate font-medium">{option.label}</span>
            <span className="text-second figures">{option.note}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}

/** What the channels of a file hold, in a line: "R occlusion · G roughness · B metallic". */
export function contentsOf(
  channels: { channel: string; map: string | null; constant?: number | null; holds?: string }[],
): string {
  const [first] = channels;
  const plain = channels.every((one) => one.channel === "A" || !/[,;×]/.test(one.holds ?? ""));
  const maps = new Set(channels.filter((one) => one.channel !== "A").map((one) => one.map));
  if (plain && maps.size === 1 && first?.map && channels.length > 1) {
    const alpha = channels.find((one) => one.channel === "A");
    const inAlpha = alpha && (alpha.holds ?? words(alpha.map ?? String(alpha.constant)));
    return `${words(first.map)}${inAlpha ? ` · A ${inAlpha}` : ""}`;
  }
  return channels
    .map((one) => `${one.channel} ${one.holds ?? words(one.map ?? String(one.constant))}`)
    .join(" · ");
}

const states = {
  new: "new",
  replaces: "replaces an earlier delivery",
  foreign: "not written here",
} as const;

function DryPart({ part, title }: { part: DryRunPartRead; title: string | undefined }) {
  const root = useQuery(queries.health()).data?.delivery_root;
  return (
    <div className="mb-5 last:mb-0">
      <div className="mb-1 flex items-baseline gap-2.5">
        <h2 className="font-semibold">{part.set_name}</h2>
        <span className="text-second">for {title ?? part.target_id}</span>
        <span className="ml-auto truncate text-second figures" title={part.folder}>
          {underRoot(part.folder, root)}/
        </span>
      </div>
      {part.error && (
        <p className="rounded-sm bg-wrong-pale px-3 py-1.5 text-wrong">△ {part.error}</p>
      )}
      <table className="w-full table-fixed border-collapse">
        <colgroup>
          <col className="w-[27%]" />
          <col />
          <col className="w-26" />
          <col className="w-26" />
          <col className="w-16" />
          <col className="w-24" />
        </colgroup>
        <tbody>
          {part.files.map((file) => (
            <tr key={file.name} className="h-8 border-t border-rule">
              <td className="truncate figures font-medium">{file.name}</td>
              <td className="px-3">
                {contentsOf(file.channels)}
                {file.channels.some((one) => one.map === "normal") && ` · green ${part.normal_y}`}
              </td>
              <td className="px-3 text-second">
                {file.encoding === "srgb" ? "sRGB" : "linear data"}
              </td>
              <td className="text-right figures">
                {file.width} × {file.height}
              </td>
              <td className="pl-3 text-right whitespace-nowrap figures">
                {file.bits} bit
                {(file.tiles || file.mips) && (
                  <span className="block text-note leading-none text-second">
                    {[file.tiles && "tiles", file.mips && "mips"].filter(Boolean).join(" · ")}
                  </span>
                )}
              </td>
              <td className="pl-3 text-right text-second">{states[file.state]}</td>
            </tr>
          ))}
          {Object.entries(part.other_files).map(([name, state]) => (
            <tr key={name} className="h-8 border-t border-rule">
              <td className="truncate figures font-medium">{name}</td>
              <td className="px-3" colSpan={4}>
                {aboutDocument(name)}
              </td>
              <td className="pl-3 text-right text-second">
                {states[state as keyof typeof states] ?? state}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {part.remarks.map((remark) => (
        <RemarkLine key={remark.text} {...remark} />
      ))}
    </div>
  );
}

function aboutDocument(name: string): string {
  if (/\.(glb|usdz)$/.test(name)) return "carries the textures above";
  if (name === "manifest.json") return "every file, channel and checksum";
  return "joins the textures above to a material";
}

/** What may have become of the files of a delivery, the worst first. */
const OTHERWISE = ["gone", "changed", "replaced"] as const;

export function StateBadge({ delivery }: { delivery: DeliveryRead }) {
  switch (delivery.state) {
    case "done": {
      const other = OTHERWISE.find((one) => delivery.parts.some((part) => part.lies === one));
      return other ? (
        <Badge tone="stale">! {other} since</Badge>
      ) : (
        <Badge tone="good">
          <Check className="size-3.5" aria-hidden="true" /> proven
        </Badge>
      );
    }
    case "failed":
      return (
        <Badge tone="wrong">
          <X className="size-3.5" aria-hidden="true" /> failed
        </Badge>
      );
    case "cancelled":
      return <Badge tone="stale">cancelled</Badge>;
    default:
      return (
        <Badge tone="calm">
          <Clock3 className="size-3.5" aria-hidden="true" />
          {delivery.state === "queued" ? "waiting" : `${Math.round(delivery.progress * 100)} %`}
        </Badge>
      );
  }
}

function History({ project }: { project: string }) {
  const { data: all } = useQuery(queries.deliveries(project));
  if (!all?.length) return null;
  return (
    <section aria-label="Delivered so far" className="mt-5">
      <h2 className="mb-1.5 text-small font-medium text-second">So far</h2>
      <ul className="rounded-md border border-rule bg-card">
        {all.map((delivery) => (
          <li key={delivery.id} className="border-b border-rule last:border-b-0">
            <Link
              to={`/${project}/deliveries/${delivery.id}`}
              className="flex h-10 items-center gap-4 px-4 hover:bg-sheet"
            >
              <span className="w-8 figures">{delivery.id}</span>
              <StateBadge delivery={delivery} />
              <span className="truncate">
                {[...new Set(delivery.parts.map((part) => part.set_name))].join(", ")}
                <span className="text-second">
                  {" "}
                  for {[...new Set(delivery.parts.map((part) => part.target_id))].join(", ")}
                </span>
              </span>
              <span className="ml-auto text-second figures">{when(delivery.created_at)}</span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
