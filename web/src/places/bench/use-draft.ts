// Draft of the set in the editor, saved when a control is released.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState, useSyncExternalStore } from "react";
import {
  answer,
  api,
  type ByKind,
  type CapturesSpec,
  failureOf,
  type MapDefinition,
  type ModelLink,
  type Preparation,
  type SetRead,
  type SurfaceSpec,
} from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { type Home, SaveQueue, type Saving, shelfOf } from "@/parts/save-queue";

export interface Draft {
  surface: SurfaceSpec;
  /** Source preparation. */
  prepare: Preparation;
  maps: ByKind<MapDefinition>;
  /** Stored alternatives of each map, with their settings. */
  shelf: ByKind<MapDefinition[]>;
  /** The linked model. */
  model: ModelLink | null;
  /** Captures that the set is measured from. */
  captures: CapturesSpec | null;
}

export function draftOf(set: SetRead): Draft {
  return {
    surface: set.surface,
    prepare: set.prepare,
    maps: Object.fromEntries(set.maps.map((map) => [map.kind, map.definition])),
    shelf: set.shelf,
    model: set.model,
    captures: set.captures,
  };
}

/** Draft for preview requests: without stored alternatives. */
export function asked({ surface, prepare, maps, model, captures }: Draft) {
  return { surface, prepare, model, captures, maps: maps as Record<string, MapDefinition> };
}

export type Change = (draft: Draft) => Draft;

export interface DraftState {
  draft: Draft;
  saving: Saving;
  /** Preview a change while dragging; nothing is saved. */
  move: (change: Change) => void;
  /** Save a change; one that amends is undone together with the previous one. */
  commit: (change: Change, amends?: boolean) => void;
  /** Undo or redo. */
  step: (to: "undo" | "redo") => void;
  takeMine: () => void;
  takeTheirs: () => void;
  retry: () => void;
}

type Queue = SaveQueue<Draft, SetRead>;

// A queue outlives its Bench, so that waiting changes are saved after leaving it.
const queues = new Map<number, Queue>();

function queueOf(set: SetRead, onSaved: (saved: SetRead) => void): Queue {
  const there = queues.get(set.id);
  if (there && !there.isSaved) return there;
  const path = { params: { path: { set_id: set.id } } };
  const home: Home<Draft, SetRead> = {
    save: ({ surface, prepare, maps, shelf, model, captures }, at, amends) =>
      answer(
        api.PUT("/api/v1/sets/{set_id}", {
          ...path,
          body: {
            version: at.version,
            surface,
            prepare,
            model,
            captures,
            amends,
            maps: maps as Record<string, MapDefinition>,
            shelf: shelf as Record<string, MapDefinition[]>,
          },
        }),
      ),
    step: (to, at) => {
      const call = { ...path, body: { version: at.version } };
      return answer(
        to === "undo"
          ? api.POST("/api/v1/sets/{set_id}/undo", call)
          : api.POST("/api/v1/sets/{set_id}/redo", call),
      );
    },
    read: () => answer(api.GET("/api/v1/sets/{set_id}", path)),
    valueOf: draftOf,
    versionOf: (saved) => saved.version,
    failure: failureOf,
    shelf: shelfOf(`set-${set.id}`),
    onSaved,
  };
  const made = new SaveQueue(set, home);
  queues.set(set.id, made);
  return made;
}

/** Saves, undo and redo go one after the other; a change made elsewhere is never overwritten. */
export function useDraft(set: SetRead, project: string): DraftState {
  const client = useQueryClient();
  const onSaved = useCallback(
    (saved: SetRead) => {
      client.setQueryData(queries.set(saved.id).queryKey, saved);
      void refresh(client, queries.tray(project).queryKey);
    },
    [client, project],
  );
  const [queue] = useState(() => queueOf(set, onSaved));
  const { value, saving } = useSyncExternalStore(queue.subscribe, queue.snapshot);
  useEffect(() => queue.arrived(set), [queue, set]);
  return {
    draft: value,
    saving,
    move: useCallback((change) => queue.move(change), [queue]),
    commit: useCallback((change, amends) => queue.commit(change, amends), [queue]),
    step: useCallback((to) => queue.step(to), [queue]),
    takeMine: useCallback(() => queue.takeMine(), [queue]),
    takeTheirs: useCallback(() => queue.takeTheirs(), [queue]),
    retry: useCallback(() => queue.retry(), [queue]),
  };
}
