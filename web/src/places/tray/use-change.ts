// Change several sets in one undoable step, described in a sentence.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Change, type ChangedRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useCommands } from "@/parts/commands";
import { notify } from "@/parts/notices";

function messageOf(done: ChangedRead, names: Map<number, string>): string {
  const kept = done.kept.map(({ text, set_ids: ids }) => {
    const who = ids.length === 1 ? (names.get(ids[0] ?? 0) ?? "1 set") : `${ids.length} sets`;
    return text.startsWith(who) ? `${text}.` : `${who} unchanged: ${text}.`;
  });
  return [`${done.title}.`, ...kept].join(" ");
}

export function useChange(project: string) {
  const client = useQueryClient();
  const { data: tray } = useQuery(queries.tray(project));
  const path = { params: { path: { project } } };
  const names = () => new Map(tray?.rows.map((row) => [row.id, row.name]));
  const fresh = () =>
    refresh(
      client,
      queries.tray(project).queryKey,
      queries.projects().queryKey,
      ...["set", "checklists", "board", "dry-run"].map((key) => [key]),
    );
  const turn = useMutation({
    mutationFn: (way: "undo" | "redo") =>
      answer(
        way === "undo"
          ? api.POST("/api/v1/projects/{project}/changes/undo", path)
          : api.POST("/api/v1/projects/{project}/changes/redo", path),
      ),
    onSuccess: async (done) => {
      notify(done.changed.length > 0 ? "good" : "wrong", messageOf(done, names()));
      await fresh();
    },
  });
  const change = useMutation({
    mutationFn: ({ ids, change: wanted }: { ids: number[]; change: Change }) =>
      answer(
        api.POST("/api/v1/projects/{project}/changes", {
          ...path,
          body: { set_ids: ids, change: wanted, dry: false },
        }),
      ),
    onSuccess: async (done) => {
      const some = done.changed.length + done.made.length > 0;
      const undo = { label: "Undo", run: () => turn.mutate("undo") };
      notify(some ? "good" : "wrong", messageOf(done, names()), some ? undo : undefined);
      await fresh();
    },
  });
  useCommands([
    {
      id: "undo",
      label: tray?.undo ? `Undo ${tray.undo}` : "Undo",
      keys: "Ctrl+Z",
      disabled: !tray?.undo,
      run: () => turn.mutate("undo"),
    },
    {
      id: "redo",
      label: tray?.redo ? `Redo ${tray.redo}` : "Redo",
      keys: "Ctrl+Shift+Z",
      disabled: !tray?.redo,
      run: () => turn.mutate("redo"),
    },
  ]);
  return { change, turn, undo: tray?.undo ?? null, redo: tray?.redo ?? null };
}
