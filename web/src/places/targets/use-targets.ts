// Actions on whole targets: copy, create, import, export, delete.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api, done, type TargetPreset, type TargetRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { notify } from "@/parts/notices";
import { blank, freeId } from "./packing";
import { presetOf } from "./use-target";

export function useTargetActions(target: TargetRead, preset: TargetPreset, targets: TargetRead[]) {
  const project = useProject();
  const navigate = useNavigate();
  const client = useQueryClient();
  const fresh = () => refresh(client, queries.targets().queryKey);
  const taken = targets.map((one) => one.id);
  const add = useMutation({
    mutationFn: (body: TargetPreset) => answer(api.POST("/api/v1/targets", { body })),
    onSuccess: async (made) => {
      await fresh();
      navigate(`/${project}/targets/${made.id}`);
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      done(
        api.DELETE("/api/v1/targets/{target_id}", { params: { path: { target_id: target.id } } }),
      ),
    onSuccess: () => {
      const back = { label: "Restore", run: () => add.mutate(preset) };
      notify("good", `${preset.title} was deleted. Delivered files stay.`, back);
      return fresh();
    },
  });
  return {
    remove: () => remove.mutate(),
    copy: () => {
      const title = `${target.title} copy`;
      add.mutate({ ...presetOf(target), ...preset, id: freeId(title, taken), title });
    },
    begin: () => add.mutate(blank(freeId("New target", taken))),
    bring: async (file: File | undefined) => {
      if (!file) return;
      try {
        add.mutate(JSON.parse(await file.text()));
      } catch {
        notify("wrong", `${file.name} isn't a target file. Choose a target exported as JSON.`);
      }
    },
    /** Save as a JSON file. */
    give: () => {
      const text = JSON.stringify(preset, null, 2);
      const link = document.createElement("a");
      link.href = URL.createObjectURL(new Blob([text], { type: "application/json" }));
      link.download = `${preset.id}.target.json`;
      link.click();
      URL.revokeObjectURL(link.href);
    },
  };
}
