// The proof in two lit windows: the set, and what the target's files hold of it.
import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { lazy, Suspense } from "react";
import { answer, api, type MapKind, type Schemas, type TargetPreset } from "@/api/client";
import type { Pictures, Shown } from "@/places/bench/shown";

const LitPair = lazy(() => import("@/lit/lit-pair"));

async function shownOf(url: string, key: string): Promise<Shown> {
  const blob = await (await fetch(url)).blob();
  const bitmap = await createImageBitmap(blob, {
    premultiplyAlpha: "none",
    colorSpaceConversion: "none",
  });
  const picture = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = picture.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("This browser draws no pictures outside the page.");
  context.drawImage(bitmap, 0, 0);
  return { key, codes: context.getImageData(0, 0, bitmap.width, bitmap.height), picture };
}

async function picturesOf(maps: Partial<Record<MapKind, string>>, word: string): Promise<Pictures> {
  const each = Object.entries(maps).map(
    async ([kind, url]) => [kind, await shownOf(url, `${word} ${kind}`)] as const,
  );
  return Object.fromEntries(await Promise.all(each));
}

async function load(preset: TargetPreset, setId: number) {
  const found = await answer(
    api.POST("/api/target-trials/lit", { body: { preset, set_id: setId } }),
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
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-30 w-[min(1180px,94vw)] -translate-1/2 rounded-md border border-rule bg-card p-4"
        >
          <div className="mb-3 flex items-baseline gap-3">
            <Dialog.Title className="text-[16px] font-semibold">
              The set and {preset.title}, under the same light
            </Dialog.Title>
            <span className="text-second figures">
              ΔE2000 {proof.mean.toFixed(2)} on average, {proof.largest.toFixed(2)} at most
            </span>
            <Dialog.Close aria-label="Close" className="ml-auto text-second hover:text-ink">
              <X className="size-4" aria-hidden="true" />
            </Dialog.Close>
          </div>
          {error && (
            <p role="alert" className="rounded-md bg-wrong-pale p-3 text-wrong">
              {error.message}
            </p>
          )}
          {!data && !error && <p className="text-second">reading the files back…</p>}
          {data && (
            <Suspense>
              <LitPair
                sides={[
                  { title: "the set", pictures: data.before },
                  { title: "read back from the files", pictures: data.after },
                ]}
                surface={data.surface}
                aspect={data.aspect}
              />
            </Suspense>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
