// Seam methods, measured on the prepared draft. If the method is selected automatically, it
// follows changes of the earlier steps.

import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { GuideRead, MapDefinition, SeamMethodsRead, SurfaceSpec } from "@/api/client";
import { queries } from "@/api/queries";
import type { DraftState } from "../use-draft";
import { preparing } from "./preparing";

export interface SeamsState {
  ways: SeamMethodsRead | undefined;
  measuring: boolean;
  error: string | null;
}

const REST = 350;

/**
 * A value after it has been constant for a while, because key presses follow each other quickly.
 */
function useRested<T>(value: T): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), REST);
    return () => clearTimeout(timer);
  }, [value]);
  return rested;
}

export function useSeams(
  setId: number,
  state: DraftState,
  guide: GuideRead | null,
  shown: boolean,
  moving: boolean,
): SeamsState {
  const { draft } = state;
  const { frame, marks, light, seams } = draft.prepare;
  const content = JSON.stringify({ frame, marks, light, wrap: draft.surface.wrap, guide });
  const [atFirst, setAtFirst] = useState<string | null>(null);
  if (guide && atFirst === null) setAtFirst(content);
  const followed =
    guide !== null && atFirst !== null && content !== atFirst && seams?.by_measure === true;
  const body = useMemo(() => {
    const { guide, wrap, ...steps } = JSON.parse(content) as typeof draft.prepare & {
      guide: GuideRead | null;
      wrap: SurfaceSpec["wrap"];
    };
    if (!guide) return null;
    return {
      surface: { tile_size: 1, relief: 0, wrap },
      prepare: { ...steps, seams: null, size: null, ruler: null },
      maps: { [guide.kind]: guide.definition } as Record<string, MapDefinition>,
    };
  }, [content]);
  const asked = useRested(!moving && (shown || followed) ? body : null);
  const { data, isFetching, error } = useQuery(queries.seamMethods(setId, asked));
  // If none is good any more, the current method is planned again, and the column shows its
  // quality.
  const followedTo = data?.chosen ?? (data?.refused ? seams?.method : undefined);
  // For the current preparation, not the previous one.
  const best = followedTo && asked === body ? data?.ways[followedTo]?.seams : undefined;
  const { commit } = state;
  useEffect(() => {
    if (!followed || !best || !seams) return;
    if (best.method === seams.method && String(best.overlap) === String(seams.overlap)) return;
    commit(preparing({ seams: best }), true);
  }, [followed, best, seams, commit]);
  return { ways: data, measuring: isFetching || asked !== body, error: error?.message ?? null };
}
