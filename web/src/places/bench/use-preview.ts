// Pictures of the maps as the draft has them. The chosen map comes first, alone and at full size,
// so that the hand sees its answer at once; what hangs on it follows, smaller while it moves.
import { useEffect, useRef, useState } from "react";
import { ApiError, type MapDefinition, type MapKind, preview } from "@/api/client";
import { frameTook } from "@/lit/frame-took";
import { type Pictures, ShownStore } from "./shown";
import type { Draft } from "./use-draft";

const MOVING_SIDE = 512;
/**
 * While a hand moves, the other maps and the light follow less often than the chosen map where a
 * frame of theirs takes long: after so many times as long as the last one took, in milliseconds.
 */
const FOLLOW = { times: 4, least: 60, most: 800 };

const store = new ShownStore();
let sequence = Date.now();

async function fetchPictures(
  setId: number,
  draft: Draft,
  kinds: MapKind[],
  side: number,
  window: string,
): Promise<Pictures> {
  sequence += 1;
  const maps = await preview(setId, {
    draft: { surface: draft.surface, maps: draft.maps as Record<string, MapDefinition> },
    kinds,
    longer_side: side,
    window,
    sequence,
    known: store.keys(),
  });
  const shown: Pictures = {};
  // What is there already first, so that what is new does not push it out.
  const inOrder = Object.entries(maps).sort(
    ([, a], [, b]) => Number(!!a.codes) - Number(!!b.codes),
  );
  for (const [kind, one] of inOrder) shown[kind as MapKind] = store.take(one);
  return shown;
}

function isDue(followed: number): boolean {
  const wait = Math.min(FOLLOW.most, Math.max(FOLLOW.least, frameTook.last * FOLLOW.times));
  return performance.now() - followed >= wait;
}

export interface PreviewState {
  pictures: Pictures;
  /** The same for the light: all of one draft, so that no frame mixes old and new. */
  lit: Pictures;
  /** The first pictures at full size: what the maps were when the Bench was opened. */
  before: Pictures;
  error: string | null;
  /** The pictures show the draft at the size asked for. */
  settled: boolean;
  /** The number of the draft that the chosen map's picture shows. */
  shows: number;
}

interface Wanted {
  number: number;
  draft: Draft;
  moving: boolean;
  focus: MapKind | undefined;
}

/**
 * One request is under way at a time and the newest draft is next, so a moving hand always sees an
 * answer and never waits for a stale one. Each draft leaves a numbered performance mark, and the
 * flat window one with the number that it shows, to measure the delay by.
 */
export function usePreview(
  setId: number,
  draft: Draft,
  moving: boolean,
  fullSide: number,
  focus: MapKind | undefined,
): PreviewState {
  const [pictures, setPictures] = useState<Pictures>({});
  const [lit, setLit] = useState<Pictures>({});
  const [error, setError] = useState<string | null>(null);
  const [settled, setSettled] = useState(false);
  const [before, setBefore] = useState<Pictures>({});
  const [shows, setShows] = useState(0);
  const wanted = useRef<Wanted>({ number: 0, draft, moving, focus });
  const busy = useRef(false);
  const followed = useRef(0);
  const window = useRef(crypto.randomUUID());
  const gone = useRef(false);

  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
    };
  }, []);

  useEffect(() => {
    const number = wanted.current.number + 1;
    wanted.current = { number, draft, moving, focus };
    setSettled(false);
    performance.mark("sieve:draft", { detail: number });
    if (busy.current) return;
    busy.current = true;

    async function answer(now: Wanted) {
      const all = Object.keys(now.draft.maps) as MapKind[];
      const fetchKinds = (kinds: MapKind[], side: number) =>
        fetchPictures(setId, now.draft, kinds, side, window.current);
      // Maps that were taken out go at once.
      const only = (old: Pictures) =>
        Object.fromEntries(Object.entries(old).filter(([kind]) => kind in now.draft.maps));
      let first: Pictures = {};
      if (now.focus && all.includes(now.focus)) {
        first = await fetchKinds([now.focus], fullSide);
        if (gone.current) return;
        setPictures((old) => ({ ...only(old), ...first }));
        setShows(now.number);
        while (now.moving && !isDue(followed.current) && wanted.current === now && !gone.current)
          await new Promise((done) => setTimeout(done, 12));
        if (gone.current || (wanted.current !== now && !isDue(followed.current))) return;
      }
      followed.current = performance.now();
      const others = all.filter((kind) => !(kind in first));
      const side = now.moving ? Math.min(MOVING_SIDE, fullSide) : fullSide;
      const found = { ...first, ...(await fetchKinds(others, side)) };
      if (gone.current) return;
      setPictures(found);
      setLit(found);
      if (!now.moving) setBefore((old) => (Object.keys(old).length > 0 ? old : found));
    }

    void (async () => {
      let done = null;
      while (done !== wanted.current && !gone.current) {
        done = wanted.current;
        try {
          await answer(done);
          setError(null);
        } catch (problem) {
          if (!(problem instanceof ApiError && problem.code === "cancelled"))
            setError(problem instanceof Error ? problem.message : "The preview failed.");
        }
      }
      busy.current = false;
      setSettled(true);
    })();
  }, [setId, draft, moving, fullSide, focus]);

  return { pictures, lit, before, error, settled, shows };
}
