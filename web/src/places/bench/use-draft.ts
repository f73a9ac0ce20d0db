// The set on the Bench as the hand has it now, saved when the hand lets go.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import {
  ApiError,
  answer,
  api,
  type MapDefinition,
  type MapKind,
  type Preparation,
  type SetRead,
  type SurfaceSpec,
} from "@/api/client";
import { queries } from "@/api/queries";
import { notify } from "@/parts/notices";

export interface Draft {
  surface: SurfaceSpec;
  /** What is done to the pictures first. */
  prepare: Preparation;
  maps: Partial<Record<MapKind, MapDefinition>>;
  /** The other ways a map was made before, with their settings. */
  shelf: Partial<Record<MapKind, MapDefinition[]>>;
}

export function draftOf(set: SetRead): Draft {
  return {
    surface: set.surface,
    prepare: set.prepare,
    maps: Object.fromEntries(set.maps.map((map) => [map.kind, map.definition])),
    shelf: set.shelf,
  };
}

export type Change = (draft: Draft) => Draft;

export interface DraftState {
  draft: Draft;
  saving: boolean;
  /** Look at a change while the hand moves; nothing is saved. */
  move: (change: Change) => void;
  /** Keep a change; one that amends is undone together with the one before. */
  settle: (change: Change, amends?: boolean) => void;
  /** Back to the kept state before, or forward again. */
  step: (to: "undo" | "redo") => void;
}

/** Saves go one after the other; a change made elsewhere is reported and never overwritten. */
export function useDraft(set: SetRead, project: string): DraftState {
  const client = useQueryClient();
  const [draft, setDraft] = useState(() => draftOf(set));
  const [saving, setSaving] = useState(false);
  const latest = useRef(draft);
  const version = useRef(set.version);
  const busy = useRef(false);
  const waiting = useRef(false);
  const amending = useRef(false);

  // The set may arrive anew: from another tab, or as the answer to our own save.
  useEffect(() => {
    if (set.version > version.current && !busy.current && !waiting.current) {
      version.current = set.version;
      latest.current = draftOf(set);
      setDraft(latest.current);
    }
  }, [set]);

  const save = useCallback(async () => {
    if (busy.current) {
      waiting.current = true;
      return;
    }
    busy.current = true;
    setSaving(true);
    try {
      const { surface, prepare, maps, shelf } = latest.current;
      const body = {
        version: version.current,
        surface,
        prepare,
        amends: amending.current,
        maps: maps as Record<string, MapDefinition>,
        shelf: shelf as Record<string, MapDefinition[]>,
      };
      const saved = await answer(
        api.PUT("/api/sets/{set_id}", { params: { path: { set_id: set.id } }, body }),
      );
      version.current = saved.version;
      client.setQueryData(queries.set(set.id).queryKey, saved);
      client.invalidateQueries({ queryKey: queries.sets(project).queryKey });
    } catch (error) {
      const message = error instanceof Error ? error.message : "The change could not be saved.";
      const reload = { label: "Show it as it is now", run: () => location.reload() };
      notify(
        "wrong",
        message,
        error instanceof ApiError && error.status === 409 ? reload : undefined,
      );
    } finally {
      busy.current = false;
      setSaving(false);
    }
    if (waiting.current) {
      waiting.current = false;
      await save();
    }
  }, [client, project, set.id]);

  const step = useCallback(
    async (to: "undo" | "redo") => {
      while (busy.current) await new Promise((done) => setTimeout(done, 20));
      busy.current = true;
      try {
        const call = { params: { path: { set_id: set.id } }, body: { version: version.current } };
        const shown = await answer(
          to === "undo"
            ? api.POST("/api/sets/{set_id}/undo", call)
            : api.POST("/api/sets/{set_id}/redo", call),
        );
        version.current = shown.version;
        latest.current = draftOf(shown);
        setDraft(latest.current);
        client.setQueryData(queries.set(set.id).queryKey, shown);
        client.invalidateQueries({ queryKey: queries.sets(project).queryKey });
      } catch (error) {
        notify("wrong", error instanceof Error ? error.message : "That could not be undone.");
      } finally {
        busy.current = false;
      }
    },
    [client, project, set.id],
  );

  const move = useCallback((change: Change) => {
    latest.current = change(latest.current);
    setDraft(latest.current);
  }, []);
  const settle = useCallback(
    (change: Change, amends = false) => {
      // Changes that wait are saved as one.
      amending.current = waiting.current ? amending.current && amends : amends;
      move(change);
      void save();
    },
    [move, save],
  );
  return { draft, saving, move, settle, step };
}
