// The selected target in the editor: each change is saved immediately and can be undone.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { answer, api, failureOf, type TargetPreset, type TargetRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { type Home, SaveQueue, type Saving, shelfOf } from "@/parts/save-queue";

export type Change = (preset: TargetPreset) => TargetPreset;

/** A target definition without the server's annotations. */
export function presetOf({ own, edition, ...preset }: TargetRead): TargetPreset {
  return preset;
}

export interface TargetState {
  preset: TargetPreset;
  saving: Saving;
  change: (change: Change) => void;
  undo: (() => void) | null;
  redo: (() => void) | null;
  takeMine: () => void;
  takeTheirs: () => void;
  retry: () => void;
}

const queues = new Map<string, SaveQueue<TargetPreset, TargetRead>>();

function queueOf(target: TargetRead, onSaved: (saved: TargetRead) => void) {
  const there = queues.get(target.id);
  if (there && !there.isSaved) return there;
  let id = target.id; // which may change with a save
  const home: Home<TargetPreset, TargetRead> = {
    save: (preset, at) =>
      answer(
        api.PUT("/api/v1/targets/{target_id}", {
          params: { path: { target_id: at.id } }, // another id in the preset renames it
          body: { edition: at.edition, preset },
        }),
      ),
    read: async () => {
      const all = await answer(api.GET("/api/v1/targets"));
      const one = all.find((each) => each.id === id);
      if (!one) throw new Error(`${target.title} was deleted by someone else.`);
      return one;
    },
    valueOf: presetOf,
    versionOf: (saved) => saved.edition,
    failure: failureOf,
    shelf: shelfOf(`target-${target.id}`),
    onSaved: (saved) => {
      id = saved.id;
      onSaved(saved);
    },
  };
  const made = new SaveQueue(target, home);
  queues.set(target.id, made);
  return made;
}

/** Saves go one after the other; a change made elsewhere is reported and never overwritten. */
export function useTarget(
  target: TargetRead,
  onRenamed: (from: string, to: string) => void,
): TargetState {
  const client = useQueryClient();
  const id = useRef(target.id);
  const onSaved = useCallback(
    (saved: TargetRead) => {
      const { queryKey } = queries.targets();
      const before = id.current;
      if (saved.id !== before) {
        id.current = saved.id;
        const queue = queues.get(before);
        if (queue) queues.set(saved.id, queue);
        client.setQueryData(queryKey, (all) =>
          all?.map((one) => (one.id === before ? saved : one)),
        );
        onRenamed(before, saved.id);
      }
      // becomes outdated by this change as well
      void refresh(client, queryKey, ["tray"], ["board"]);
    },
    [client, onRenamed],
  );
  const [queue] = useState(() => queueOf(target, onSaved));
  const { value: preset, saving } = useSyncExternalStore(queue.subscribe, queue.snapshot);
  const [past, setPast] = useState<{ list: TargetPreset[]; at: number }>(() => ({
    list: [preset],
    at: 0,
  }));
  useEffect(() => queue.arrived(target), [queue, target]);
  const show = (list: TargetPreset[], at: number) => {
    setPast({ list, at });
    const next = list[at];
    if (next) queue.commit(() => next);
  };
  const { list, at } = past;
  return {
    preset,
    saving,
    change: (change) => {
      const next = change(preset);
      // A change by another client is an undo step as well.
      const before = list[at] === preset ? list.slice(0, at + 1) : [...list.slice(0, at), preset];
      if (next !== preset) show([...before, next], before.length);
    },
    undo: at > 0 ? () => show(list, at - 1) : null,
    redo: at < list.length - 1 ? () => show(list, at + 1) : null,
    takeMine: useCallback(() => queue.takeMine(), [queue]),
    takeTheirs: useCallback(() => queue.takeTheirs(), [queue]),
    retry: useCallback(() => queue.retry(), [queue]),
  };
}
