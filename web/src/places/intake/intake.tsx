// Intake: files that came in, sorted into sets; nothing is in a set before it is accepted.

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { FolderInput, Plus } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import type { ArrivalRead, AssignmentChange } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { Button } from "@/parts/button";
import { useCommands } from "@/parts/commands";
import { useEndings } from "@/parts/pictures";
import { useTitle } from "@/parts/title";
import { arrive, picked, useArriving, useIncoming } from "./arriving";
import { Offer, Remember } from "./cards";
import { ChosenBar } from "./chosen-bar";
import type { Choices } from "./file-row";
import { Groups } from "./groups";
import { useIntake, useIntakeActions } from "./use-intake";

const GREY = new Set(["data"]);

export function Intake() {
  useTitle("Intake");
  const project = useProject();
  const client = useQueryClient();
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [accepted, setAccepted] = useState(false);
  const [over, setOver] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const last = useRef<number | null>(null);
  const [refusedOffers, setRefusedOffers] = useState<ReadonlySet<string>>(new Set());
  const [corrected, setCorrected] = useState<string | null>(null);
  const { data: table, error } = useIntake(project, accepted);
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const { data: cards = [] } = useQuery(queries.cards());
  const rows = useMemo(() => table?.rows ?? [], [table]);
  const actions = useIntakeActions(project, (changed) => setCorrected(changed[0]?.batch ?? null));
  const take = (found: ReturnType<typeof picked>) =>
    void arrive(project, found, () => refresh(client, ["intake", project]));
  useIncoming(take, setOver);

  const open = rows.filter((row) => row.state === "recognized" && !row.problem);
  const unsettled = rows.filter((row) => row.problem || row.state === "refused");
  const inSets = rows.filter((row) => row.state === "accepted").length;
  const picks = rows.filter((row) => chosen.has(row.id));
  const acceptAll = () => actions.accept(open);
  useCommands([
    {
      id: "intake-accept",
      label: "Intake: accept everything that is settled",
      keys: "Shift+Enter",
      disabled: open.length === 0,
      run: acceptAll,
    },
    { id: "intake-pick", label: "Intake: take files in", run: () => files.current?.click() },
    {
      id: "intake-all",
      label: "Intake: choose all files or none",
      keys: "Ctrl+A",
      run: () => setChosen(new Set(chosen.size < rows.length ? rows.map((row) => row.id) : [])),
    },
  ]);
  const choices = useMemo<Choices>(() => {
    const kinds = vocabulary?.kinds ?? [];
    const titled = kinds.map((one) => ({ value: one.kind as string, label: one.title }));
    return {
      maps: [
        ...titled,
        { value: "packed", label: "Packed channels" },
        { value: "none", label: "Leave it out" },
      ],
      grey: kinds
        .filter((one) => GREY.has(one.meaning))
        .map((one) => ({ value: one.kind as string, label: one.title })),
      reliefs: vocabulary?.reliefs ?? {},
    };
  }, [vocabulary]);
  const groups = useMemo(() => groupsOf(rows), [rows]);
  const order = useRef<number[]>([]);
  order.current = groups.flatMap(([, some]) => some.map((one) => one.id));

  function choose(row: ArrivalRead, extend: boolean) {
    const from = last.current;
    setChosen((before) => {
      const after = new Set(before);
      const ids = order.current;
      const [a, b] = [ids.indexOf(from ?? row.id), ids.indexOf(row.id)];
      if (extend && from !== null)
        for (const id of ids.slice(Math.min(a, b), Math.max(a, b) + 1)) after.add(id);
      else if (!after.delete(row.id)) after.add(row.id);
      return after;
    });
    last.current = row.id;
  }

  const offers = (table?.offers ?? []).filter((one) => !refusedOffers.has(keyOf(one)));
  const remembered = rows.filter((row) => row.batch === corrected && row.card === null);
  return (
    <div className="flex min-h-full flex-col px-4 pb-4">
      <div className="flex h-[50px] shrink-0 items-center gap-3">
        <h1 className="text-[19px] font-semibold">Intake</h1>
        <span className="figures text-second">{countsOf(rows, unsettled.length)}</span>
        <Progress waiting={table?.waiting ?? 0} rows={rows.length} />
        <label className="ml-auto flex items-center gap-1.5 text-second">
          <input
            type="checkbox"
            className="accent-copper"
            checked={accepted}
            onChange={(event) => setAccepted(event.target.checked)}
          />
          show what is in sets{inSets > 0 ? ` (${inSets})` : ""}
        </label>
        <Picker input={files} label="Files to take in" take={take} />
        <Picker input={folder} label="Folder to take in" take={take} whole />
        <Button onClick={() => folder.current?.click()}>
          <FolderInput className="size-4" /> A folder…
        </Button>
        <Button onClick={() => files.current?.click()}>
          <Plus className="size-4" /> Take in…
        </Button>
        <Button
          look="main"
          disabled={open.length === 0 || actions.busy}
          title="Everything that is settled goes into its sets (Shift+Enter)"
          onClick={acceptAll}
        >
          Accept all{open.length > 0 ? ` ${open.length}` : ""}
        </Button>
      </div>
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
        chosen={chosen}
        onChoose={choose}
        onChooseAll={(some, all) =>
          setChosen((before) => {
            const after = new Set(before);
            for (const row of some) all ? after.add(row.id) : after.delete(row.id);
            return after;
          })
        }
        onChange={(given: ArrivalRead[], change: AssignmentChange) => actions.change(given, change)}
        onDismiss={(row) => actions.dismiss([row])}
      />
      {table && (
        <button
          type="button"
          onClick={() => files.current?.click()}
          className={`mt-1 grid grow place-items-center rounded-md border border-dashed p-8 ${
            over ? "border-copper bg-copper-pale" : "border-rule hover:bg-sheet"
          }`}
        >
          <span className="text-center text-second">
            <span className="block text-[15px] font-medium text-ink">
              {over ? "Let go to take them in" : "Drop files, folders or a zip anywhere, or paste"}
            </span>
            Each file is looked at: which map of which set it is, which way its green grows, what
            its channels hold.
          </span>
        </button>
      )}
      {rows.length === 0 && table && (
        <p className="pt-3 text-center text-second">
          A single photo may as well go straight to the <Link to={`/${project}/tray`}>Tray</Link>.
        </p>
      )}
      {picks.length > 0 && (
        <ChosenBar
          rows={picks}
          choices={choices}
          cards={cards.map((card) => card.name)}
          onChange={(change) => actions.change(picks, change)}
          onCard={(card) => actions.applyCard(picks, card)}
          onAccept={() => actions.accept(picks.filter((row) => row.state === "recognized"))}
          onDismiss={() => {
            actions.dismiss(picks);
            setChosen(new Set());
          }}
          onNone={() => setChosen(new Set())}
        />
      )}
    </div>
  );
}

function keyOf(offer: { card: { name: string }; ids: number[] }): string {
  return `${offer.card.name}:${offer.ids.join(",")}`;
}

/** Files by the set that they go to, sets by name. */
function groupsOf(rows: ArrivalRead[]): [string, ArrivalRead[]][] {
  const groups = new Map<string, ArrivalRead[]>();
  for (const row of rows) {
    const known = groups.get(row.set_name);
    if (known) known.push(row);
    else groups.set(row.set_name, [row]);
  }
  return [...groups].sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true }));
}

function countsOf(rows: ArrivalRead[], unsettled: number): string {
  if (rows.length === 0) return "";
  const sets = new Set(rows.map((row) => row.set_name)).size;
  const files = `${rows.length} ${rows.length === 1 ? "file" : "files"}`;
  const left = unsettled > 0 ? ` · ${unsettled} to settle` : "";
  return `${files} · ${sets} ${sets === 1 ? "set" : "sets"}${left}`;
}

function Progress({ waiting, rows }: { waiting: number; rows: number }) {
  const { total, done } = useArriving();
  const sending = done < total;
  if (!sending && waiting === 0) return <span role="status" />;
  const share = sending ? done / total : 1 - waiting / Math.max(rows, 1);
  const text = sending ? `${done} of ${total} sent` : `looking at ${waiting} more`;
  return (
    <span role="status" className="flex items-center gap-2 text-second">
      <span className="h-1.5 w-24 overflow-hidden rounded-full bg-rule">
        <span
          className="block h-full bg-verdigris"
          style={{ width: `${Math.round(share * 100)}%` }}
        />
      </span>
      <span className="figures">{text}</span>
    </span>
  );
}

interface PickerProps {
  input: React.RefObject<HTMLInputElement | null>;
  label: string;
  take: (files: ReturnType<typeof picked>) => void;
  whole?: boolean;
}

function Picker({ input, label, take, whole = false }: PickerProps) {
  const { takenIn } = useEndings();
  return (
    <input
      ref={input}
      type="file"
      multiple
      hidden
      accept={whole ? undefined : takenIn}
      aria-label={label}
      {...(whole ? { webkitdirectory: "" } : {})}
      onChange={(event) => {
        const found = picked(event.target.files);
        event.target.value = "";
        if (found.length > 0) take(found);
      }}
    />
  );
}
