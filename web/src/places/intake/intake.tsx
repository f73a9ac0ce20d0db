// Intake: imported files grouped into sets; a set changes only when they are accepted.

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import type { ArrivalRead, AssignmentChange, SurfaceOffer as SurfaceOffered } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { useCommands } from "@/parts/commands";
import { DropHere } from "@/parts/drop-here";
import { useSelection } from "@/parts/selection";
import { useTitle } from "@/parts/title";
import { Offer, Remember } from "./cards";
import { SelectionBar } from "./chosen-bar";
import type { Choices } from "./file-row";
import { Groups } from "./groups";
import { IntakeBar } from "./intake-bar";
import { ServerFolders } from "./server-folders";
import { SurfaceOffer } from "./surface-offer";
import { arrive, type picked, useUploadState } from "./uploads";
import { useIntake, useIntakeActions } from "./use-intake";

const GREY = new Set(["data"]);

export function Intake() {
  useTitle("Intake");
  const project = useProject();
  const client = useQueryClient();
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [accepted, setAccepted] = useState(false);
  const [server, setServer] = useState(false);
  const [over, setOver] = useState(false);
  const [refusedOffers, setRefusedOffers] = useState<ReadonlySet<string>>(new Set());
  const [corrected, setCorrected] = useState<string | null>(null);
  const { data: table, error } = useIntake(project, accepted);
  const { data: cards = [] } = useQuery(queries.cards());
  const choices = useChoices();
  // Suggested capture groups are listed separately until they are decided.
  const rows = useMemo(() => {
    const offered = new Set(table?.surfaces.flatMap((one) => one.ids));
    return (table?.rows ?? []).filter((row) => !offered.has(row.id));
  }, [table]);
  const groups = useMemo(() => groupsOf(rows), [rows]);
  const chosen = useSelection(groups.flatMap(([, some]) => some.map((one) => one.id)));
  const actions = useIntakeActions(project, (changed) => setCorrected(changed[0]?.batch ?? null));
  const take = (found: ReturnType<typeof picked>) => void arrive(client, project, found);
  useUploadState(take, setOver);

  const open = rows.filter((row) => row.state === "recognized" && !row.problem);
  const unsettled = rows.filter((row) => row.problem || row.state === "refused");
  const picks = rows.filter((row) => chosen.ids.has(row.id));
  const acceptAll = () => actions.accept(open);
  useCommands([
    {
      id: "intake-accept",
      label: "Intake: accept all ready files",
      keys: "Shift+Enter",
      disabled: open.length === 0,
      run: acceptAll,
    },
    {
      id: "undo",
      label: "Intake: restore removed files",
      keys: "Ctrl+Z",
      disabled: actions.bringBack === null,
      run: () => actions.bringBack?.(),
    },
    { id: "intake-pick", label: "Intake: import files", run: () => files.current?.click() },
    {
      id: "intake-all",
      label: "Intake: select all files, or clear selection",
      keys: "Ctrl+A",
      run: () =>
        chosen.chooseAll(
          rows.map((row) => row.id),
          chosen.ids.size < rows.length,
        ),
    },
  ]);
  const offers = (table?.offers ?? []).filter((one) => !refusedOffers.has(keyOf(one)));
  const remembered = rows.filter((row) => row.batch === corrected && row.card === null);
  return (
    <div className="flex min-h-full flex-col px-4 pb-4">
      <IntakeBar
        counts={countsOf(rows, unsettled.length, table?.surfaces ?? [])}
        waiting={table?.waiting ?? 0}
        rows={rows.length}
        accepted={accepted}
        inSets={rows.filter((row) => row.state === "accepted").length}
        onAccepted={setAccepted}
        files={files}
        folder={folder}
        onServer={() => setServer(true)}
        take={take}
        open={open.length}
        busy={actions.busy}
        onAcceptAll={acceptAll}
      />
      {server && <ServerFolders project={project} onClose={() => setServer(false)} />}
      {error && <p className="rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>}
      {offers.map((offer) => (
        <Offer
          key={keyOf(offer)}
          offer={offer}
          onUse={() =>
            actions.applyCard(
              rows.filter((row) => offer.ids.includes(row.id)),
              offer.card.name,
            )
          }
          onRefuse={() => setRefusedOffers((before) => new Set(before).add(keyOf(offer)))}
        />
      ))}
      {(table?.surfaces ?? []).map((offer) => (
        <SurfaceOffer
          key={offer.id}
          offer={offer}
          busy={actions.busy}
          onTake={(name) => actions.takeSurface(offer, name)}
          onRefuse={() => actions.refuseSurface(offer)}
        />
      ))}
      {corrected && remembered.length > 0 && (
        <Remember
          rows={remembered}
          names={cards.map((card) => card.name)}
          onKeep={(card) =>
            actions.makeCard(remembered, card, () => {
              setCorrected(null);
              void refresh(client, queries.cards().queryKey);
            })
          }
          onLeave={() => setCorrected(null)}
        />
      )}
      <Groups
        groups={groups}
        known={table?.known_sets ?? {}}
        project={project}
        choices={choices}
        chosen={chosen.ids}
        onChoose={(row, extend) => chosen.choose(row.id, extend)}
        onChooseAll={(some, all) =>
          chosen.chooseAll(
            some.map((row) => row.id),
            all,
          )
        }
        onChange={(given: ArrivalRead[], change: AssignmentChange) => actions.change(given, change)}
        onDismiss={(row) => actions.dismiss([row])}
      />
      {table && (
        <DropHere
          over={over}
          title={over ? "Drop to import" : "Drop files, folders or a zip anywhere, or paste"}
          onClick={() => files.current?.click()}
        >
          For each file, Copper Sieve detects the texture set, the map type, the normal-map
          convention and packed channels.
        </DropHere>
      )}
      {rows.length === 0 && table?.surfaces.length === 0 && (
        <p className="pt-3 text-center text-second">
          A single photo can also be imported on the <Link to={`/${project}/tray`}>Tray</Link>.
        </p>
      )}
      {picks.length > 0 && (
        <SelectionBar
          rows={picks}
          choices={choices}
          cards={cards.map((card) => card.name)}
          onChange={(change) => actions.change(picks, change)}
          onCard={(card) => actions.applyCard(picks, card)}
          onAccept={() => actions.accept(picks.filter((row) => row.state === "recognized"))}
          onDismiss={() => {
            actions.dismiss(picks);
            chosen.clear();
          }}
          onNone={chosen.clear}
        />
      )}
    </div>
  );
}

/** Map types that a file can be assigned. */
function useChoices(): Choices {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  return useMemo<Choices>(() => {
    const kinds = vocabulary?.kinds ?? [];
    const titled = kinds.map((one) => ({ value: one.kind as string, label: one.title }));
    return {
      maps: [
        ...titled,
        { value: "packed", label: "Packed channels" },
        { value: "none", label: "Skip file" },
      ],
      grey: kinds
        .filter((one) => GREY.has(one.meaning))
        .map((one) => ({ value: one.kind as string, label: one.title })),
      reliefs: vocabulary?.reliefs ?? {},
    };
  }, [vocabulary]);
}

function keyOf(offer: { card: { name: string }; ids: number[] }): string {
  return `${offer.card.name}:${offer.ids.join(",")}`;
}

/** Files grouped by set, sets sorted by name. */
function groupsOf(rows: ArrivalRead[]): [string, ArrivalRead[]][] {
  const groups = new Map<string, ArrivalRead[]>();
  for (const row of rows) {
    const known = groups.get(row.set_name);
    if (known) known.push(row);
    else groups.set(row.set_name, [row]);
  }
  return [...groups].sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true }));
}

function countsOf(rows: ArrivalRead[], unsettled: number, surfaces: SurfaceOffered[]): string {
  const count = surfaces.reduce((all, one) => all + one.ids.length, rows.length);
  if (count === 0) return "";
  const sets = new Set(rows.map((row) => row.set_name)).size + surfaces.length;
  const files = `${count} ${count === 1 ? "file" : "files"}`;
  const left = unsettled > 0 ? ` · ${unsettled} undecided` : "";
  return `${files} · ${sets} ${sets === 1 ? "set" : "sets"}${left}`;
}
