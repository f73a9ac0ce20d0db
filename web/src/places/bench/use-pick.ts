// Color picker: its source picture, and the result of a click.
import { useEffect, useState } from "react";
import { type MapDefinition, type MapKind, type OperationRead, preview } from "@/api/client";
import { PictureCache, type Pictures, type Shown } from "./picture-cache";
import type { Draft } from "./use-draft";

const AROUND = 1;
const store = new PictureCache();

/** The mean color of a texel and its neighbors, as #rrggbb. */
export function colorAt(codes: ImageData, column: number, row: number): string {
  const sums = [0, 0, 0];
  let count = 0;
  for (let r = row - AROUND; r <= row + AROUND; r++)
    for (let c = column - AROUND; c <= column + AROUND; c++) {
      if (r < 0 || c < 0 || r >= codes.height || c >= codes.width) continue;
      for (const i of [0, 1, 2])
        sums[i] = (sums[i] ?? 0) + (codes.data[(r * codes.width + c) * 4 + i] ?? 0);
      count += 1;
    }
  const hex = sums.map((sum) =>
    Math.round(sum / count)
      .toString(16)
      .padStart(2, "0"),
  );
  return `#${hex.join("")}`;
}

/** The picture in a required input, which belongs to no map. */
function slotPicture(definition: MapDefinition | undefined, operation: OperationRead | undefined) {
  if (definition?.how !== "derived") return null;
  const slot = operation?.slots.find((one) => one.required);
  const filling = slot && definition.slots?.[slot.name];
  return filling?.how === "imported" ? filling : null;
}

/** Source of the color picker: the operation's first input, or the picture that it adjusts. */
export function usePickPicture(
  setId: number,
  draft: Draft,
  kind: MapKind | undefined,
  operation: OperationRead | undefined,
  pictures: Pictures,
  picking: boolean,
): Shown | undefined {
  const [fetched, setFetched] = useState<Shown>();
  const definition = kind && draft.maps[kind];
  const own = picking ? slotPicture(definition, operation) : null;
  const source = own?.source;
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked once for each picture
  useEffect(() => {
    setFetched(undefined);
    if (!own || !kind) return;
    let gone = false;
    const maps = { ...draft.maps, [kind]: own } as Record<string, MapDefinition>;
    void preview(setId, {
      draft: { surface: draft.surface, prepare: draft.prepare, maps },
      kinds: [kind],
      longer_side: 1024,
      window: `pick-${setId}`,
      sequence: Date.now(),
      known: store.keys(),
    }).then((found) => {
      const one = found.maps[kind];
      if (one && !gone) setFetched(store.take(one));
    });
    return () => {
      gone = true;
    };
  }, [setId, kind, source]);
  if (!picking) return undefined;
  if (own) return fetched;
  const input = operation?.inputs[0];
  return input && pictures[input];
}
