// State and actions of Intake.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import {
  type ArrivalRead,
  type AssignmentChange,
  answer,
  api,
  done,
  type SurfaceOffer,
} from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { notify } from "@/parts/notices";

export function useIntake(project: string, accepted: boolean) {
  const { data: followed = [] } = useQuery(queries.watchedFolders(project));
  const follows = followed.some((one) => one.watching || one.read_at === null);
  return useQuery(queries.intake(project, accepted, follows));
}

export interface IntakeActions {
  change: (rows: ArrivalRead[], change: AssignmentChange) => void;
  accept: (rows: ArrivalRead[]) => void;
  dismiss: (rows: ArrivalRead[]) => void;
  /** Restores the files that were removed last; null if none were since the view was opened. */
  bringBack: (() => void) | null;
  applyCard: (rows: ArrivalRead[], card: string | null) => void;
  makeCard: (
    rows: ArrivalRead[],
    card: { name: string; licence: string; where: string },
    then: () => void,
  ) => void;
  /** Combine captures of one surface into a measured set, or treat them as separate pictures. */
  takeSurface: (offer: SurfaceOffer, name: string) => void;
  refuseSurface: (offer: SurfaceOffer) => void;
  busy: boolean;
}

const idsOf = (rows: ArrivalRead[]) => rows.map((row) => row.id);

export function useIntakeActions(
  project: string,
  onChanged: (rows: ArrivalRead[]) => void,
): IntakeActions {
  const client = useQueryClient();
  const fresh = () => refresh(client, ["intake", project], queries.tray(project).queryKey);
  const change = useMutation({
    mutationFn: (given: { rows: ArrivalRead[]; change: AssignmentChange }) =>
      done(
        api.PATCH("/api/v1/arrivals", { body: { ids: idsOf(given.rows), change: given.change } }),
      ),
    onSuccess: (_, { rows }) => onChanged(rows),
    onSettled: fresh,
  });
  const accept = useMutation({
    mutationFn: (rows: ArrivalRead[]) =>
      answer(api.POST("/api/v1/arrivals/acceptances", { body: { ids: idsOf(rows) } })),
    onSuccess: ({ sets }, rows) => {
      const names = Object.keys(sets);
      const files = rows.length === 1 ? "1 file" : `${rows.length} files`;
      const left = names.length > 3 ? ` and ${names.length - 3} more` : "";
      notify(
        "good",
        names.length > 0 ? `${files} added to ${names.slice(0, 3).join(", ")}${left}.` : "Skipped.",
      );
    },
    onSettled: fresh,
  });
  const [off, setOff] = useState<ArrivalRead[][]>([]);
  const bringBack = useMutation({
    mutationFn: (rows: ArrivalRead[]) =>
      done(api.POST("/api/v1/arrivals/restorations", { body: { ids: idsOf(rows) } })),
    onSuccess: (_, rows) => setOff((before) => before.filter((one) => one !== rows)),
    onSettled: fresh,
  });
  const dismiss = useMutation({
    mutationFn: (rows: ArrivalRead[]) =>
      done(api.POST("/api/v1/arrivals/dismissals", { body: { ids: idsOf(rows) } })),
    onSuccess: (_, rows) => {
      setOff((before) => [...before, rows]);
      const files = rows.length === 1 ? `${rows[0]?.name}` : `${rows.length} files`;
      notify("good", `${files} removed from Intake.`, {
        label: "Undo",
        run: () => bringBack.mutate(rows),
      });
    },
    onSettled: fresh,
  });
  const applyCard = useMutation({
    mutationFn: (given: { rows: ArrivalRead[]; card: string | null }) =>
      done(
        api.POST("/api/v1/arrivals/cards", { body: { ids: idsOf(given.rows), card: given.card } }),
      ),
    onSettled: fresh,
  });
  const makeCard = useMutation({
    mutationFn: (given: {
      rows: ArrivalRead[];
      card: { name: string; licence: string; where: string };
    }) =>
      answer(api.POST("/api/v1/source-cards", { body: { ids: idsOf(given.rows), ...given.card } })),
    onSuccess: (card) => notify("good", `Source card ${card.name} created.`),
    onSettled: fresh,
  });
  const takeSurface = useMutation({
    mutationFn: (given: { offer: SurfaceOffer; name: string }) =>
      answer(
        api.POST("/api/v1/capture-groups/{surface_id}/acceptances", {
          params: { path: { surface_id: given.offer.id } },
          body: { name: given.name },
        }),
      ),
    onSuccess: ({ sets }, { offer }) =>
      notify("good", `${offer.ids.length} pictures were added to ${Object.keys(sets).join(", ")}.`),
    onSettled: fresh,
  });
  const refuseSurface = useMutation({
    mutationFn: (offer: SurfaceOffer) =>
      done(
        api.POST("/api/v1/capture-groups/{surface_id}/declines", {
          params: { path: { surface_id: offer.id } },
        }),
      ),
    onSettled: fresh,
  });
  return {
    takeSurface: (offer, name) => takeSurface.mutate({ offer, name }),
    refuseSurface: (offer) => refuseSurface.mutate(offer),
    change: (rows, to) => change.mutate({ rows, change: to }),
    accept: (rows) => accept.mutate(rows),
    dismiss: (rows) => dismiss.mutate(rows),
    applyCard: (rows, card) => applyCard.mutate({ rows, card }),
    makeCard: (rows, card, then) => makeCard.mutate({ rows, card }, { onSuccess: then }),
    bringBack: off.length > 0 ? () => bringBack.mutate(off.at(-1) ?? []) : null,
    busy: accept.isPending || takeSurface.isPending,
  };
}
