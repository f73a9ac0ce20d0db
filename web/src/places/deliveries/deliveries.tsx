// Deliveries: table of sets and targets; below it, a preview of the selected cells.

import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { BellRing, RefreshCw, RotateCcw } from "lucide-react";
import { useDeferredValue, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { answer, api, type BoardCellRead, type TargetPreset, type TrayRow } from "@/api/client";
import { jobsOf } from "@/api/jobs";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { Button } from "@/parts/button";
import { useCommands } from "@/parts/commands";
import { notify } from "@/parts/notices";
import { useTitle } from "@/parts/title";
import { FilterBar } from "@/places/tray/filter-bar";
import { TargetsMenu, useShownTargets } from "@/places/tray/shown-targets";
import { useArrangement, useShownRows } from "@/places/tray/use-tray";
import { useAutoDeliver } from "./auto-deliver";
import { Board } from "./board";
import { keyOf, partsOf, stillThere, useSelectedCells } from "./cells";
import { CellsPreview, type Way } from "./cells-preview";
import { DestinationDialog } from "./destination";
import { History } from "./history";
import { WebhooksDialog } from "./webhooks";

const NO_ROWS: TrayRow[] = [];
const NO_TARGETS: TargetPreset[] = [];

function listed(text: string | null): string[] {
  return text ? text.split(",").filter(Boolean) : [];
}

export function Deliveries() {
  useTitle("Deliveries");
  const [params, setParams] = useSearchParams();
  const [history, setHistory] = useState(false);
  const project = useProject();
  const { data: tray } = useQuery(queries.tray(project));
  const { data: targets = NO_TARGETS } = useQuery(queries.targets());
  const only = useMemo(() => new Set(listed(params.get("sets")).map(Number)), [params]);
  const rows = useMemo(() => {
    const all = tray?.rows ?? NO_ROWS;
    return only.size > 0 ? all.filter((row) => only.has(row.id)) : all;
  }, [tray, only]);
  const wanted = listed(params.get("targets"));
  const { shown, ...menu } = useShownTargets(project, targets, rows, wanted);
  return (
    <div className="flex h-full flex-col px-4 pb-3">
      <div className="flex h-bar shrink-0 items-center gap-3">
        <h1 className="text-title font-semibold">Deliveries</h1>
        {only.size > 0 && (
          <span className="text-second">
            of {rows.length} {rows.length === 1 ? "set" : "sets"}{" "}
            <Button look="link" onClick={() => setParams({}, { replace: true })}>
              show all
            </Button>
          </span>
        )}
        <Button
          className="ml-auto"
          aria-pressed={history}
          onClick={() => setHistory((before) => !before)}
        >
          {history ? "Back to the board" : "History…"}
        </Button>
        {!history && <TargetsMenu {...{ targets, shown }} {...menu} />}
      </div>
      {history && <History project={project} />}
      {!history && tray && rows.length === 0 && (
        <p className="p-6 text-center text-second">
          No texture sets yet. <Link to={`/${project}/tray`}>Import a photo on the Tray</Link>{" "}
          first.
        </p>
      )}
      {!history && rows.length > 0 && shown.length > 0 && (
        <OnBoard
          key={`${params.get("sets")} ${params.get("targets")}`}
          {...{ project, rows, shown }}
          first={[...only].flatMap((set) => wanted.map((target) => keyOf(set, target)))}
        />
      )}
    </div>
  );
}

interface OnBoardProps {
  project: string;
  rows: TrayRow[];
  shown: TargetPreset[];
  first: string[];
}

function OnBoard({ project, rows, shown, first }: OnBoardProps) {
  const field = useRef<HTMLInputElement>(null);
  const { arrangement, arrange } = useArrangement(project);
  const { groups, ids } = useShownRows(rows, { ...arrangement, grouping: "none" }, shown);
  const inOrder = useMemo(() => groups.flatMap((group) => group.rows), [groups]);
  const targetIds = useMemo(() => shown.map((one) => one.id), [shown]);
  const chosen = useSelectedCells(ids, targetIds, () => first);
  const cells = useCells(project);
  const [place, setPlace] = useState<string | null>(null);
  const [telling, setTelling] = useState(false);
  const chosenPlaces = useChosenPlaces(project);
  const { kept, keep } = useAutoDeliver(project);
  const { lying, staleFiles, onSeen } = useInSight(project, cells);
  const { failed, retry } = useRetry(project, cells);
  const keys = stillThere(chosen.keys, rows, shown);
  const { look, deliver } = useDelivering(project, keys, cells);
  const every = ids.flatMap((id) => targetIds.map((target) => keyOf(id, target)));
  const stale = every.filter((key) => cells.get(key)?.state === "stale" || lying.has(key));
  useCommands([
    { id: "board-find", label: "Board: filter sets", keys: "/", run: () => field.current?.focus() },
    {
      id: "board-all",
      label: "Board: select all cells, or clear selection",
      keys: "Ctrl+A",
      run: () => chosen.toggle(every),
    },
    {
      id: "board-none",
      label: "Board: clear selection",
      keys: "Escape",
      run: () => chosen.put([]),
    },
    {
      id: "board-stale",
      label: "Board: select all stale cells",
      disabled: stale.length === 0,
      run: () => chosen.put(stale),
    },
    { id: "board-webhooks", label: "Board: add or edit webhooks", run: () => setTelling(true) },
  ]);
  return (
    <>
      <div className="flex shrink-0 items-start gap-2">
        <div className="grow">
          <FilterBar
            {...arrangement}
            grouping={null}
            rows={rows}
            shown={ids.length}
            field={field}
            onChange={arrange}
          />
        </div>
        <Button
          look="toggle"
          className="h-control! rounded-md! px-3! font-medium"
          aria-pressed={kept.whole}
          title="Delivers every cell that was delivered before automatically when it changes"
          onClick={() => keep({ cells: [{}], kept: !kept.whole })}
        >
          <RefreshCw className="size-4" aria-hidden="true" /> Auto-deliver
        </Button>
        <Button title="Notify other services when a delivery ends" onClick={() => setTelling(true)}>
          <BellRing className="size-4" aria-hidden="true" /> Webhooks…
        </Button>
        {failed > 0 && (
          <Button
            disabled={retry.isPending}
            title="Deliver the failed parts again"
            onClick={() => retry.mutate()}
          >
            <RotateCcw className="size-4" aria-hidden="true" /> Retry failed{" "}
            <span className="figures text-second">{failed}</span>
          </Button>
        )}
        <Button disabled={stale.length === 0} onClick={() => chosen.put(stale)}>
          Select stale <span className="figures text-second">{stale.length}</span>
        </Button>
      </div>
      <Board
        rows={inOrder}
        targets={shown}
        onPlace={setPlace}
        onKeep={(target, wanted) => keep({ cells: [{ target_id: target }], kept: wanted })}
        {...{ cells, lying, staleFiles, chosen, chosenPlaces, kept, onSeen }}
      />
      {telling && <WebhooksDialog project={project} onClose={() => setTelling(false)} />}
      {place && (
        <DestinationDialog
          {...{ project }}
          target={place}
          example={inOrder[0]?.name ?? "a_set"}
          onClose={() => setPlace(null)}
        />
      )}
      <UnderWay project={project} />
      {keys.length > 0 ? (
        <CellsPreview
          project={project}
          count={keys.length}
          targets={shown}
          rows={rows}
          look={look}
          asking={deliver.isPending}
          onDeliver={(way) => deliver.mutate(way)}
          onNone={() => chosen.put([])}
          kept={keys.every((key) => kept.cell(partsOf(key).set_id, partsOf(key).target_id))}
          onKeep={(wanted) => keep({ cells: keys.map(partsOf), kept: wanted })}
        />
      ) : (
        <p className="shrink-0 p-4 text-center text-second">
          Select cells, a row by its set name, or a column by its target to see the files that will
          be written.
        </p>
      )}
    </>
  );
}

/** Targets with a destination other than the default. */
function useChosenPlaces(project: string): ReadonlySet<string> {
  const { data } = useQuery(queries.destinations(project));
  return useMemo(
    () => new Set(data?.filter((one) => !one.is_default).map((one) => one.target_id)),
    [data],
  );
}

function useCells(project: string): ReadonlyMap<string, BoardCellRead> {
  const { data } = useQuery(queries.board(project));
  return useMemo(
    () => new Map(data?.map((cell) => [keyOf(cell.set_id, cell.target_id), cell])),
    [data],
  );
}

/** Disk states of the displayed sets' files, and which files would change. */
function useInSight(project: string, cells: ReadonlyMap<string, BoardCellRead>) {
  const [seen, setSeen] = useState<number[]>([]);
  const known = useMemo(() => {
    const there = new Set([...cells.values()].map((one) => one.set_id));
    return seen.filter((id) => there.has(id)).slice(0, 200);
  }, [seen, cells]);
  const underWay = useMemo(
    () => [...cells.values()].filter((one) => one.state === "waiting" || one.state === "running"),
    [cells],
  );
  const ids = useDeferredValue(known);
  const lying = useQuery({
    ...queries.diskStates(project, ids, underWay.length),
    placeholderData: keepPreviousData,
  });
  const old = useMemo(() => {
    const stale = [...cells.values()].filter((one) => one.state === "stale");
    const sets = new Set(stale.map((one) => one.set_id));
    return ids.filter((id) => sets.has(id));
  }, [ids, cells]);
  const stale = useQuery({
    ...queries.staleFiles(project, old),
    placeholderData: keepPreviousData,
  });
  return {
    lying: useByCell(lying.data),
    staleFiles: useByCell(stale.data),
    onSeen: setSeen,
  };
}

function useByCell<T extends { set_id: number; target_id: string }>(some: T[] | undefined) {
  return useMemo(
    () => new Map<string, T>(some?.map((one) => [keyOf(one.set_id, one.target_id), one])),
    [some],
  );
}

function useDelivering(project: string, keys: string[], now: ReadonlyMap<string, BoardCellRead>) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const cells = keys.map(partsOf);
  const standing = keys.map((key) => {
    const cell = now.get(key);
    return cell ? `${cell.state}${cell.delivery_id ?? ""}` : "";
  });
  const look = useQuery({
    ...queries.deliveryPreview(project, useDeferredValue(cells), standing.join()),
    placeholderData: keepPreviousData,
  });
  const deliver = useMutation({
    mutationFn: (way: Way) =>
      answer(
        api.POST("/api/v1/projects/{project}/deliveries", {
          params: { path: { project } },
          body: { set_ids: [], target_ids: [], cells, ...way },
        }),
      ),
    mutationKey: ["deliver", project],
    onSuccess: ({ skipped, ...delivery }) => {
      const [first] = skipped;
      if (first) {
        const what = skipped.length === 1 ? "1 cell was" : `${skipped.length} cells were`;
        const why = `${first.set_name} for ${first.target_id}: ${first.reason}`;
        notify("wrong", `${what} skipped. ${why}`, undefined, `deliver ${project}`);
      }
      client.setQueryData(queries.delivery(delivery.id).queryKey, delivery);
      void refresh(client, ["jobs"], ["deliveries"], queries.board(project).queryKey);
      if (cells.length <= 2) navigate(`/${project}/deliveries/${delivery.id}`);
    },
  });
  return { look, deliver };
}

/** Waiting and running deliveries. */
function UnderWay({ project }: { project: string }) {
  const { data: jobs = [] } = useQuery(jobsOf(project));
  const some = jobs.filter((one) => one.kind === "delivery");
  const client = useQueryClient();
  const cancel = useMutation({
    mutationFn: (delivery_id: number) =>
      answer(
        api.POST("/api/v1/deliveries/{delivery_id}/cancel", { params: { path: { delivery_id } } }),
      ),
    onSettled: () => refresh(client, ["jobs"], queries.board(project).queryKey),
  });
  if (some.length === 0) return null;
  return (
    <ul aria-label="Active deliveries" className="shrink-0 pt-2 text-second">
      {some.map((one) => (
        <li key={one.id} className="flex items-center gap-2">
          <Link to={`/${project}/deliveries/${one.id}`} className="hover:text-copper">
            Delivery {one.id}:{" "}
            <span className="figures">{Math.round((one.progress ?? 0) * 100)} %</span>{" "}
            {one.step || "waiting"}
          </Link>
          <Button
            look="small"
            aria-label={`Cancel delivery ${one.id}`}
            disabled={cancel.isPending && cancel.variables === one.id}
            onClick={() => cancel.mutate(one.id)}
          >
            Cancel
          </Button>
        </li>
      ))}
    </ul>
  );
}

/** Deliveries whose last attempt failed or was cancelled, with a retry button. */
function useRetry(project: string, cells: ReadonlyMap<string, BoardCellRead>) {
  const client = useQueryClient();
  const failed = [...cells.values()].filter((one) => one.state === "failed");
  const ids = [...new Set(failed.flatMap((one) => one.delivery_id ?? []))];
  const retry = useMutation({
    mutationFn: async () => {
      for (const delivery_id of ids)
        await answer(
          api.POST("/api/v1/deliveries/{delivery_id}/retry", { params: { path: { delivery_id } } }),
        );
    },
    onSettled: () => refresh(client, ["jobs"], queries.board(project).queryKey),
  });
  return { failed: failed.length, retry };
}
