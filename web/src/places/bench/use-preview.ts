// Map previews of the draft. The chosen map is requested first and alone for low latency; the
// others follow, at a lower resolution while dragging. After the drag, all are requested at full
// relief resolution, which equals a delivery.
import { type RefObject, useCallback, useEffect, useRef, useState } from "react";
import { ApiError, type MapKind, type PreparedFacts, preview, type SetRead } from "@/api/client";
import { drawsInSoftware } from "@/lit/renderer";
import { Budget } from "./budget";
import { PictureCache, type Pictures } from "./picture-cache";
import { asked, type Draft } from "./use-draft";
import { useWaiting, type Waiting } from "./use-waiting";

const MOVING_SIDE = 512;
/** Screen pixels of a picture for which the resolution while dragging is sufficient. */
const ENOUGH = 640;
const store = new PictureCache();
let sequence = Date.now();

interface Fetched {
  shown: Pictures;
  facts: PreparedFacts;
}

async function fetchPictures(
  setId: number,
  draft: Draft,
  kinds: MapKind[],
  side: number,
  working: number | undefined,
  window: string,
  signal: AbortSignal,
): Promise<Fetched> {
  sequence += 1;
  const { maps, facts } = await preview(
    setId,
    {
      draft: asked(draft),
      kinds,
      longer_side: side,
      compute_side: working ?? null,
      window,
      sequence,
      known: store.keys(),
    },
    signal,
  );
  const shown: Pictures = {};
  // Re-insert cached entries first, so that new ones don't evict them.
  const inOrder = Object.entries(maps).sort(
    ([, a], [, b]) => Number(!!a.codes) - Number(!!b.codes),
  );
  for (const [kind, one] of inOrder) {
    const taken = store.take(one);
    if (taken) shown[kind as MapKind] = taken;
  }
  return { shown, facts };
}

export interface PreviewState {
  pictures: Pictures;
  /** The maps of the lit view, all from one draft, so that no frame mixes old and new. */
  lit: Pictures;
  /** First previews at full size: the maps when the editor was opened. */
  before: Pictures;
  /** Result of preparing the displayed draft. */
  facts: PreparedFacts;
  error: string | null;
  /** The pictures show the current draft at full size. */
  settled: boolean;
  /** Number of the draft that the selected map's picture shows. */
  shows: number;
  /** Progress and cancel function of a long preview. */
  waiting: Waiting;
  /** Callback after the chosen map's preview was painted, with its time. */
  painted: (number: number) => void;
}

interface Wanted {
  number: number;
  draft: Draft;
  moving: boolean;
  focus: MapKind | undefined;
  /** Time of its creation, in the page's milliseconds. */
  came: number;
}

/** Maps to display. */
interface Shows {
  set: SetRead;
  draft: Draft;
  /** The pointer is dragging. */
  moving: boolean;
  fullSide: number;
  /** The selected map; its picture is requested first. */
  focus: MapKind | undefined;
  /** Longer side of the displayed picture in screen pixels. */
  seenSide: RefObject<number>;
  /** The edit affects every map, so even the selected one is computed at reduced size. */
  whole: boolean;
}

/**
 * One request runs at a time and the newest draft is next, so that dragging always shows progress
 * and never waits for an outdated draft. Each draft sets a numbered performance mark, and the flat
 * view sets one with the number that it displays, to measure the latency.
 */
export function usePreview({
  set,
  draft,
  moving,
  fullSide,
  focus,
  seenSide,
  whole,
}: Shows): PreviewState {
  const setId = set.id;
  const [facts, setFacts] = useState<PreparedFacts>(() => ({
    width: set.width,
    height: set.height,
    surface: set.prepared_surface,
    width_share: set.prepared_surface.tile_size / set.surface.tile_size,
    guide: null,
    sheet: set.sheet,
  }));
  const [pictures, setPictures] = useState<Pictures>({});
  const [lit, setLit] = useState<Pictures>({});
  const [error, setError] = useState<string | null>(null);
  const [settled, setSettled] = useState(false);
  const [before, setBefore] = useState<Pictures>({});
  const [shows, setShows] = useState(0);
  const wanted = useRef<Wanted>({ number: 0, draft, moving, focus, came: 0 });
  const busy = useRef(false);
  // Cancels the full-size request when dragging starts again.
  const resting = useRef<AbortController | null>(null);
  const [budget] = useState(() => new Budget(drawsInSoftware()));
  const window = useRef(crypto.randomUUID());
  const gone = useRef(false);
  const waiting = useWaiting(window.current, settled);
  const { begun, isStopped } = waiting;

  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
    };
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: asked for again after it was stopped
  useEffect(() => {
    const number = wanted.current.number + 1;
    const came = performance.now();
    if (moving && !wanted.current.moving) budget.began(came);
    if (moving) budget.asked(number, came);
    wanted.current = { number, draft, moving, focus, came };
    begun();
    setSettled(false);
    performance.mark("sieve:draft", { detail: number });
    if (busy.current) {
      resting.current?.abort();
      return;
    }
    busy.current = true;

    async function answer(now: Wanted) {
      const all = Object.keys(now.draft.maps) as MapKind[];
      const control = new AbortController();
      resting.current = null;
      const fetchKinds = async (kinds: MapKind[], side: number, working?: number) => {
        const { signal } = control;
        const found = await fetchPictures(
          setId,
          now.draft,
          kinds,
          side,
          working,
          window.current,
          signal,
        );
        setFacts((old) => {
          // A request for maps that don't need the depth doesn't measure it.
          const { surface } = found.facts;
          const depth = surface.depth ?? old.surface.depth ?? null;
          const next = { ...found.facts, surface: { ...surface, depth } };
          return JSON.stringify(old) === JSON.stringify(next) ? old : next;
        });
        return found.shown;
      };
      const smaller = Math.min(MOVING_SIDE, fullSide);
      // No more texels than are visible while dragging, but with full relief.
      const movingSide = () => (seenSide.current <= ENOUGH ? smaller : fullSide);
      // Remove the previews of removed maps immediately.
      const only = (old: Pictures) =>
        Object.fromEntries(Object.entries(old).filter(([kind]) => kind in now.draft.maps));
      let first: Pictures = {};
      if (now.focus && all.includes(now.focus)) {
        first =
          now.moving && whole
            ? await fetchKinds([now.focus], smaller, smaller)
            : await fetchKinds([now.focus], now.moving ? movingSide() : fullSide, fullSide);
        if (gone.current) return;
        setPictures((old) => ({ ...only(old), ...first }));
        setShows(now.number);
        const due = () => budget.isDue(performance.now(), wanted.current.came);
        while (now.moving && !due() && wanted.current === now && !gone.current)
          await new Promise((done) => setTimeout(done, 12));
        if (gone.current || (wanted.current !== now && !due())) return;
      }
      if (now.moving) budget.followed(performance.now());
      let found: Pictures;
      if (now.moving) {
        const others = all.filter((kind) => !(kind in first));
        found = { ...first, ...(await fetchKinds(others, smaller, smaller)) };
      } else {
        resting.current = control;
        found = await fetchKinds(all, fullSide);
      }
      if (gone.current) return;
      setPictures(found);
      setLit(found);
      if (now.moving) return;
      setBefore((old) => (Object.keys(old).length > 0 ? old : found));
      // Prefetch the input of the next drag; nothing waits for it.
      if (now.focus && wanted.current === now && !whole)
        void fetchKinds([now.focus], movingSide(), fullSide).catch(() => undefined);
    }

    void (async () => {
      let done = null;
      while (done !== wanted.current && !gone.current) {
        done = wanted.current;
        try {
          await answer(done);
          setError(null);
        } catch (problem) {
          const overtaken =
            (problem instanceof ApiError && problem.code === "cancelled") ||
            (problem instanceof DOMException && problem.name === "AbortError");
          if (isStopped()) break; // shows the cached previews until something changes
          if (!overtaken)
            setError(problem instanceof Error ? problem.message : "The preview failed.");
        }
      }
      busy.current = false;
      setSettled(true);
    })();
  }, [
    setId,
    draft,
    moving,
    fullSide,
    focus,
    seenSide,
    whole,
    budget,
    begun,
    isStopped,
    waiting.round,
  ]);

  const painted = useCallback(
    (number: number) => budget.shown(number, performance.now()),
    [budget],
  );
  return { pictures, lit, before, facts, error, settled, shows, waiting, painted };
}
