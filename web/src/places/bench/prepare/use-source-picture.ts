// The reference map as imported, or rectified without crop: positions refer to it.
import { useEffect, useRef, useState } from "react";
import { type CapturesSpec, type GuideRead, type MapDefinition, preview } from "@/api/client";
import { useLatest } from "@/parts/use-latest";
import { PictureCache, type Shown } from "../picture-cache";
import type { Draft } from "../use-draft";
import { PLAIN, WHOLE } from "./preparing";

const SIDE = 1024;
const store = new PictureCache();

export function useSourcePicture(
  setId: number,
  draft: Draft,
  guide: GuideRead | null,
  straightened: boolean,
): Shown | undefined {
  const [shown, setShown] = useState<Shown>();
  const window = useRef(crypto.randomUUID());
  const frame = JSON.stringify(
    straightened ? { ...draft.prepare.frame, crop: WHOLE } : PLAIN.frame,
  );
  // Surface settings don't change the picture; an unchanged one is sent again with each preview.
  const content =
    guide &&
    JSON.stringify({
      kind: guide.kind,
      definition: guide.definition,
      captures: draft.captures,
      frame,
    });
  const surface = useLatest(draft.surface);
  useEffect(() => {
    if (!content) return;
    const { kind, definition, captures, frame } = JSON.parse(content) as GuideRead & {
      frame: string;
      captures: CapturesSpec | null;
    };
    const maps = { [kind]: definition } as Record<string, MapDefinition>;
    let gone = false;
    void preview(setId, {
      draft: {
        surface: surface.current,
        prepare: { ...PLAIN, frame: JSON.parse(frame) },
        maps,
        captures,
      },
      kinds: [kind],
      longer_side: SIDE,
      compute_side: SIDE,
      window: window.current,
      sequence: Date.now(),
      known: store.keys(),
    })
      .then((found) => {
        const one = found.maps[kind];
        if (one && !gone) setShown(store.take(one));
      })
      .catch(() => undefined); // the set editor's own preview reports the error
    return () => {
      gone = true;
    };
  }, [setId, content, surface]);
  return shown;
}
