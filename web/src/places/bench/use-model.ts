// The linked model: its mesh, and the maps of its other materials.
import { useQueries, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { ModelLink, ModelRead } from "@/api/client";
import { isOpen, type JobRead, jobsOf } from "@/api/jobs";
import { queries } from "@/api/queries";
import type { MeshData } from "@/lit/drawing/messages";
import type { Sheet } from "@/parts/sheet";
import { onSheet } from "./islands/on-sheet";
import { otherMaterialMaps } from "./other-materials";
import type { Pictures } from "./picture-cache";

export interface ModelOfSet {
  model: ModelRead;
  link: ModelLink;
  /** UVs relative to the whole sheet if the set has tiles. */
  mesh: MeshData;
  /** Maps of the sets of the model's other materials, by material. */
  others: Record<string, Pictures>;
}

const nothing: Record<string, Pictures> = {};

/** Why the model isn't displayed: a job prepares it, or it can't be displayed. */
export interface ModelWaiting {
  name: string;
  job: JobRead | null;
  error: string | null;
}

/** Null if the set isn't linked to a model, or the model is loading. */
export function useModel(
  project: string,
  setId: number,
  link: ModelLink | null,
  sheet: Sheet | null,
): { found: ModelOfSet | null; waiting: ModelWaiting | null } {
  const { data: models } = useQuery({ ...queries.models(project), enabled: link !== null });
  const model = link ? models?.find((one) => one.sha256 === link.source) : undefined;
  const { data: mesh, error } = useQuery({
    ...queries.mesh(model?.id ?? 0, link?.uv_set ?? 0),
    enabled: model !== undefined,
  });
  const { data: jobs } = useQuery({ ...jobsOf(project), enabled: model !== undefined && !mesh });
  const worn = useMemo(() => {
    if (!model || !link?.material) return [];
    return model.materials.flatMap(({ name, sets }) => {
      const first = name === link.material ? undefined : sets.find((one) => one.id !== setId);
      return first ? [{ material: name, setId: first.id }] : [];
    });
  }, [model, link?.material, setId]);
  const others = useQueries({
    queries: worn.map((one) => otherMaterialMaps(one.setId)),
    combine: (results) => results.map((one) => one.data),
  });
  const key = others.map((one, n) => (one ? worn[n]?.material : "")).join("\n");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same until another one is there
  const byMaterial = useMemo(() => {
    const found = worn.flatMap(({ material }, n) => {
      const one = others[n];
      return one ? [[material, one.pictures] as const] : [];
    });
    return found.length > 0 ? Object.fromEntries(found) : nothing;
  }, [key, worn]);
  const numbers = sheet?.numbers.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same until the tiles change
  const laid = useMemo(() => {
    if (!mesh || !link) return mesh;
    return worn.reduce(
      (now, { material }, n) => onSheet(now, material, others[n]?.sheet ?? null),
      onSheet(mesh, link.material ?? null, sheet),
    );
  }, [mesh, link?.material, numbers, key, worn]);
  const found = useMemo(
    () => (model && link && laid ? { model, link, mesh: laid, others: byMaterial } : null),
    [model, link, laid, byMaterial],
  );
  const job = jobs?.find(
    (one) => one.kind === "model_display" && isOpen(one) && one.title === model?.name,
  );
  const waiting =
    model && !mesh ? { name: model.name, job: job ?? null, error: error?.message ?? null } : null;
  return { found, waiting };
}
