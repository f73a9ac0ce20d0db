// Checklists of sets: refetched until the current version of each set is checked.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type FindingRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { notify } from "@/parts/notices";

export function useChecklists(project: string, sets: { id: number; version: number }[]) {
  return useQuery(queries.checklists(project, sets));
}

/** Actions on findings: fix the set, or dismiss as intended. */
export function useFixes(project: string) {
  const client = useQueryClient();
  const fresh = (...keys: (readonly unknown[])[]) =>
    refresh(client, queries.tray(project).queryKey, ["checklists", project], ...keys);
  const fix = useMutation({
    mutationFn: ({ ids, rule }: { ids: number[]; rule: FindingRead["rule"] }) =>
      answer(
        api.POST("/api/v1/projects/{project}/changes", {
          params: { path: { project } },
          body: { set_ids: ids, change: { do: "fix", rule }, dry: false },
        }),
      ),
    onSuccess: async (done) => {
      const kept = done.kept.map((one) => `${one.text}.`);
      const some = done.changed.length > 0;
      notify(some ? "good" : "wrong", [...(some ? [`${done.title}.`] : []), ...kept].join(" "));
      await fresh(["set"], ["board"], ["dry-run"]);
    },
  });
  const say = useMutation({
    mutationFn: (change: { id: number; finding: string; purpose: boolean }) =>
      answer(
        api.PUT("/api/v1/sets/{set_id}/ignored-findings", {
          params: { path: { set_id: change.id } },
          body: { finding: change.finding, ignored: change.purpose },
        }),
      ),
    onSuccess: () => fresh(),
  });
  return { fix, say };
}

const RANK = { error: 0, warning: 1, info: 2 };

/** A rule with the sets that violate it. */
export interface RuleAmong {
  /** Finding of the first set, representative for all. */
  finding: FindingRead;
  ids: number[];
}

/** Open findings by rule: most severe first, then the most frequent. */
export function byRule(lists: { set_id: number; findings: FindingRead[] }[]): RuleAmong[] {
  const found = new Map<string, RuleAmong>();
  for (const { set_id, findings } of lists) {
    for (const finding of findings) {
      if (finding.ignored) continue;
      const key = `${finding.rule} ${finding.weight} ${finding.fix}`;
      const there = found.get(key);
      if (!there) found.set(key, { finding, ids: [set_id] });
      else if (!there.ids.includes(set_id)) there.ids.push(set_id);
    }
  }
  return [...found.values()].sort(
    (a, b) => RANK[a.finding.weight] - RANK[b.finding.weight] || b.ids.length - a.ids.length,
  );
}
