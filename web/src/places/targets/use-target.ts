// The chosen target as the hand has it: every change is kept at once and can be undone.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { answer, api, type TargetPreset, type TargetRead } from "@/api/client";
import { queries } from "@/api/queries";
import { notify } from "@/parts/notices";

export type Change = (preset: TargetPreset) => TargetPreset;

/** A target's definition without what the server says about it. */
export function presetOf({ own, edition, ...preset }: TargetRead): TargetPreset {
  return preset;
}

export interface TargetState {
  preset: TargetPreset;
  saving: boolean;
  change: (change: Change) => void;
  undo: (() => void) | null;
  redo: (() => void) | null;
}

/** Saves go one after the other; a change made elsewhere is reported and never overwritten. */
export function useTarget(target: TargetRead): TargetState {
  const client = useQueryClient();
  const [states, setStates] = useState(() => ({ list: [presetOf(target)], at: 0 }));
  const [saving, setSaving] = useState(false);
  const edition = useRef(target.edition);
  const wanted = useRef<TargetPreset | null>(null);
  const busy = useRef(false);

  const save = useCallback(
    async (preset: TargetPreset) => {
      wanted.current = preset;
      if (busy.current) return;
      busy.current = true;
      setSaving(true);
      while (wanted.current) {
        const next = wanted.current;
        wanted.current = null;
        try {
          const saved = await answer(
            api.PUT("/api/targets/{target_id}", {
              params: { path: { target_id: next.id } },
              body: { edition: edition.current, preset: next },
            }),
          );
          edition.current = saved.edition;
        } catch (error) {
          const message = error instanceof Error ? error.message : "The change could not be saved.";
          notify("wrong", message);
        }
      }
      busy.current = false;
      setSaving(false);
      client.invalidateQueries({ queryKey: queries.targets().queryKey });
      client.invalidateQueries({ queryKey: ["sets"] }); // what is stale by the change
    },
    [client],
  );
  const show = (list: TargetPreset[], at: number) => {
    setStates({ list, at });
    const preset = list[at];
    if (preset) void save(preset);
  };
  const { list, at } = states;
  const preset = list[at] ?? presetOf(target);
  return {
    preset,
    saving,
    change: (change) => {
      const next = change(preset);
      if (next !== preset) show([...list.slice(0, at + 1), next], at + 1);
    },
    undo: at > 0 ? () => show(list, at - 1) : null,
    redo: at < list.length - 1 ? () => show(list, at + 1) : null,
  };
}
