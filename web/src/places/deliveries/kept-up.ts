// What is delivered by itself as soon as it changed: cells, columns, the project.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { answer, api, type KeptUpRead } from "@/api/client";
import { queries } from "@/api/queries";

/** What is kept, as it is asked of cells. */
export class KeptUp {
  readonly whole: boolean;
  private readonly columns: ReadonlySet<string>;
  private readonly cells: ReadonlySet<string>;

  constructor(some: readonly KeptUpRead[]) {
    this.whole = some.some((one) => one.set_id === null && one.target_id === null);
    this.columns = new Set(
      some.flatMap((one) => (one.set_id === null && one.target_id ? [one.target_id] : [])),
    );
    this.cells = new Set(
      some.flatMap((one) => (one.set_id === null ? [] : [`${one.set_id}:${one.target_id}`])),
    );
  }

  column(target: string): boolean {
    return this.columns.has(target);
  }

  /** By itself; its column and the project may keep it as well. */
  cell(set: number, target: string): boolean {
    return this.cells.has(`${set}:${target}`);
  }

  /** For whatever reason; `once`: it was delivered before. */
  keeps(set: number, target: string, once: boolean): boolean {
    return this.cell(set, target) || this.column(target) || (this.whole && once);
  }
}

export function useKeptUp(project: string) {
  const client = useQueryClient();
  const query = queries.keptUp(project);
  const { data } = useQuery(query);
  const kept = useMemo(() => new KeptUp(data ?? []), [data]);
  const keep = useMutation({
    mutationFn: (body: { cells: Partial<KeptUpRead>[]; kept: boolean }) =>
      answer(api.PUT("/api/projects/{project}/kept-up", { params: { path: { project } }, body })),
    onSuccess: (all) => client.setQueryData(query.queryKey, all),
  });
  return { kept, keep: keep.mutate };
}
