// Pictures of other sets, as a model's other materials wear them: small, and as they are kept.
import { queryOptions } from "@tanstack/react-query";
import { preview } from "@/api/client";
import { type Pictures, ShownStore } from "./shown";

const SIDE = 512;
const store = new ShownStore();

export const wornPictures = (setId: number) =>
  queryOptions({
    queryKey: ["worn", setId],
    queryFn: async ({ signal }): Promise<Pictures> => {
      const window = `worn-${setId}-${crypto.randomUUID()}`;
      const { maps } = await preview(setId, { longer_side: SIDE, window, sequence: 1 }, signal);
      return Object.fromEntries(
        Object.entries(maps).flatMap(([kind, one]) => {
          const shown = store.take(one);
          return shown ? [[kind, shown]] : [];
        }),
      );
    },
    staleTime: 30_000,
    retry: 1,
  });
