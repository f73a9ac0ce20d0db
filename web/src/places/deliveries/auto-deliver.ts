// Automatic delivery after changes: of cells, columns or the project.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { type AutoDeliverRead, answer, api } from "@/api/client";
import { queries } from "@/api/queries";

/** Automatically delivered cells, columns and project. */
export class AutoDeliverRule {
  readonly whole: boolean;
  private readonly columns: ReadonlySet<string>;
  private readonly cells: ReadonlySet<string>;

  constructor(some: readonly AutoDeliverRead[]) {
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

  /** The cell itself is delivered automatically; its column or project may be as well. */
  cell(set: number, target: string): boolean {
    return this.cells.has(`${set}:${target}`);
  }

  /** Delivered automatically for any reason; `once`: has been delivered before. */
  keeps(set: number, target: string, once: boolean): boolean {
    return this.cell(set, target) || this.column(target) || (this.whole && once);
  }
}

interface Asked {
  cells: Partial<AutoDeliverRead>[];
  kept: boolean;
}

/** Resulting automatic deliveries. */
export function withAutoDeliver(
  before: readonly AutoDeliverRead[],
  { cells, kept }: Asked,
): AutoDeliverRead[] {
  const name = (one: Partial<AutoDeliverRead>) => `${one.set_id ?? ""}:${one.target_id ?? ""}`;
  const asked = new Map(cells.map((one) => [name(one), one]));
  const others = before.filter((one) => !asked.has(name(one)));
  if (!kept) return others;
  const more = [...asked.values()];
  return [
    ...others,
    ...more.map((one) => ({ set_id: one.set_id ?? null, target_id: one.target_id ?? null })),
  ];
}

export function useAutoDeliver(project: string) {
  const client = useQueryClient();
  const query = queries.autoDeliverRules(project);
  const { data } = useQuery(query);
  const kept = useMemo(() => new AutoDeliverRule(data ?? []), [data]);
  const keep = useMutation({
    mutationFn: (body: Asked) =>
      answer(
        api.PUT("/api/v1/projects/{project}/auto-deliver", { params: { path: { project } }, body }),
      ),
    // Optimistic update; the response has the final state.
    onMutate: (asked) =>
      client.setQueryData(query.queryKey, (before) => withAutoDeliver(before ?? [], asked)),
    onSuccess: (all) => client.setQueryData(query.queryKey, all),
    onError: () => client.invalidateQueries({ queryKey: query.queryKey }),
  });
  return { kept, keep: keep.mutate };
}
