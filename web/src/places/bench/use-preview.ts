// Pictures of the maps as the draft has them. One request is under way at a time and the newest
// draft is next, so a moving hand always sees an answer and never waits for a stale one.
import { useEffect, useRef, useState } from "react";
import { ApiError, answer, api, type MapDefinition, type MapKind } from "@/api/client";
import type { Draft } from "./use-draft";

export interface Shown {
  key: string;
  bitmap: ImageBitmap;
}

export type Pictures = Partial<Record<MapKind, Shown>>;

const KEPT = 48;

/** Decoded pictures by content key, the least recently used dropped first. */
class BitmapStore {
  private readonly kept = new Map<string, ImageBitmap>();

  async get(key: string, url: string): Promise<ImageBitmap> {
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known;
    }
    const response = await fetch(url);
    if (!response.ok)
      throw new ApiError("The preview could not be fetched.", "preview", response.status);
    const bitmap = await createImageBitmap(await response.blob(), {
      colorSpaceConversion: "none",
      premultiplyAlpha: "none",
    });
    this.kept.set(key, bitmap);
    for (const old of this.kept.keys()) {
      if (this.kept.size <= KEPT) break;
      this.kept.delete(old);
    }
    return bitmap;
  }
}

const store = new BitmapStore();
let sequence = Date.now();

async function fetchPictures(
  setId: number,
  draft: Draft,
  side: number,
  window: string,
): Promise<Pictures> {
  sequence += 1;
  const { maps } = await answer(
    api.POST("/api/sets/{set_id}/previews", {
      params: { path: { set_id: setId } },
      body: {
        draft: { surface: draft.surface, maps: draft.maps as Record<string, MapDefinition> },
        kinds: null,
        longer_side: side,
        window,
        sequence,
      },
    }),
  );
  const entries = await Promise.all(
    Object.entries(maps).map(async ([kind, one]) => [
      kind,
      { key: one.key, bitmap: await store.get(one.key, one.url) },
    ]),
  );
  return Object.fromEntries(entries);
}

export interface PreviewState {
  pictures: Pictures;
  /** The first pictures at full size: what the maps were when the Bench was opened. */
  before: Pictures;
  error: string | null;
  /** The pictures show the draft at the size asked for. */
  settled: boolean;
}

/**
 * While `moving`, pictures come smaller and so faster; then once more at full size.
 * Every change of the pictures leaves a performance mark, so that the delay can be measured.
 */
export function usePreview(
  setId: number,
  draft: Draft,
  moving: boolean,
  fullSide: number,
): PreviewState {
  const [pictures, setPictures] = useState<Pictures>({});
  const [error, setError] = useState<string | null>(null);
  const [settled, setSettled] = useState(false);
  const [before, setBefore] = useState<Pictures>({});
  const wanted = useRef({ draft, side: fullSide });
  const busy = useRef(false);
  const window = useRef(crypto.randomUUID());
  const gone = useRef(false);

  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
    };
  }, []);

  useEffect(() => {
    const side = moving ? Math.min(512, fullSide) : fullSide;
    wanted.current = { draft, side };
    setSettled(false);
    performance.mark("sieve:draft");
    if (busy.current) return;
    busy.current = true;
    void (async () => {
      let done = null;
      while (done !== wanted.current && !gone.current) {
        done = wanted.current;
        try {
          const found = await fetchPictures(setId, done.draft, done.side, window.current);
          if (gone.current) break;
          setPictures(found);
          setBefore((first) => (Object.keys(first).length > 0 ? first : found));
          setError(null);
          performance.mark("sieve:pictures");
        } catch (problem) {
          setError(problem instanceof Error ? problem.message : "The preview failed.");
        }
      }
      busy.current = false;
      setSettled(true);
    })();
  }, [setId, draft, moving, fullSide]);

  return { pictures, before, error, settled };
}
