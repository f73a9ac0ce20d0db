// Target preview: the set, and the material that the target's files contain, side by side.
import { useQuery } from "@tanstack/react-query";
import { Suspense } from "react";
import { answer, api, type ByKind, type Schemas, type TargetPreset } from "@/api/client";
import { ErrorBoundary, loaded } from "@/parts/error-boundary";
import { WideDialog } from "@/parts/wide-dialog";
import type { Pictures, Shown } from "@/places/bench/picture-cache";

const LitPair = loaded(() => import("@/lit/lit-pair"));

async function shownOf(url: string, key: string): Promise<Shown> {
  const blob = await (await fetch(url)).blob();
  const bitmap = await createImageBitmap(blob, {
    premultiplyAlpha: "none",
    colorSpaceConversion: "none",
  });
  const picture = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = picture.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("This browser doesn't support OffscreenCanvas.");
  context.drawImage(bitmap, 0, 0);
  return { key, codes: context.getImageData(0, 0, bitmap.width, bitmap.height), picture };
}

async function picturesOf(maps: ByKind<string>, word: string): Promise<Pictures> {
  const each = Object.entries(maps).map(
    async ([kind, url]) => [kind, await shownOf(url, `${word} ${kind}`)] as const,
  );
  return Object.fromEntries(await Promise.all(each));
}

async function load(preset: TargetPreset, setId: number) {
  const found = await answer(
    api.POST("/api/v1/target-previews/renderings", { body: { preset, set_id: setId } }),
  );
  const key = crypto.randomUUID();
  const [before, after] = await Promise.all([
    picturesOf(found.before, `${key} before`),
    picturesOf(found.after, `${key} after`),
  ]);
  return { before, after, surface: found.surface, aspect: found.aspect };
}

export function LitProof({
  preset,
  setId,
  proof,
  onClose,
}: {
  preset: TargetPreset;
  setId: number;
  proof: Schemas["ProofRead"];
  onClose: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ["lit-proof", preset, setId],
    queryFn: () => load(preset, setId),
    gcTime: 0,
  });
  return (
    <WideDialog
      title={`The set and ${preset.title} under the same light`}
      about={
        <span className="figures">
          ΔE2000 {proof.mean.toFixed(2)} on average, {proof.largest.toFixed(2)} at most
        </span>
      }
      error={error}
      waiting="reading files back…"
      onClose={onClose}
    >
      {data && (
        <ErrorBoundary what="Lit comparison">
          <Suspense>
            <LitPair
              sides={[
                { title: "set", pictures: data.before },
                { title: "files read back", pictures: data.after },
              ]}
              surface={data.surface}
              aspect={data.aspect}
            />
          </Suspense>
        </ErrorBoundary>
      )}
    </WideDialog>
  );
}
