// Sets of the model's other materials: small previews of their saved state.
import { queryOptions } from "@tanstack/react-query";
import { preview } from "@/api/client";
import { type Sheet, sheetFrom } from "@/parts/sheet";
import { PictureCache, type Pictures } from "./picture-cache";

/** Material appearance: textures and their repetition. */
export interface OtherMaterials {
  pictures: Pictures;
  sheet: Sheet | null;
}

const SIDE = 512;
const store = new PictureCache();

export const otherMaterialMaps = (setId: number) =>
  queryOptions({
    queryKey: ["worn", setId],
    queryFn: async ({ signal }): Promise<OtherMaterials> => {
      const window = `worn-${setId}-${crypto.randomUUID()}`;
      const asked = { longer_side: SIDE, window, sequence: 1 };
      const { maps, facts } = await preview(setId, asked, signal);
      const pictures = Object.fromEntries(
        Object.entries(maps).flatMap(([kind, one]) => {
          const shown = store.take(one);
          return shown ? [[kind, shown]] : [];
        }),
      );
      return { pictures, sheet: sheetFrom(facts.sheet) };
    },
    staleTime: 30_000,
    retry: 1,
  });
