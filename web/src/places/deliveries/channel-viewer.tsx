// A channel as the delivered file holds it, beside the map that it was made of and the difference.
import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { queries } from "@/api/queries";

export interface ChannelOf {
  delivery: number;
  part: number;
  file: string;
  letter: string;
}

export function ChannelViewer({ of, onClose }: { of: ChannelOf; onClose: () => void }) {
  const { data: view, error } = useQuery(queries.channel(of));
  const figures = view && [
    view.map && { title: "the map before", picture: view.map },
    { title: "what it should hold", picture: view.due },
    { title: "in the file", picture: view.held },
    { title: `difference × ${view.amplified}`, picture: view.difference },
  ];
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
              {of.letter} of <span className="figures">{of.file}</span>
            </Dialog.Title>
            <span className="text-second">{view?.words}</span>
            <Dialog.Close aria-label="Close" className="ml-auto text-second hover:text-ink">
              <X className="size-4" aria-hidden="true" />
            </Dialog.Close>
          </div>
          {error && (
            <p role="alert" className="rounded-md bg-wrong-pale p-3 text-wrong">
              {error.message}
            </p>
          )}
          {!view && !error && <p className="text-second">computing it anew from the maps…</p>}
          <div className="flex gap-3">
            {figures?.map(
              (one) =>
                one && (
                  <figure key={one.title} className="min-w-0 flex-1">
                    <img
                      src={one.picture}
                      alt={one.title}
                      className="aspect-square w-full rounded-sm bg-ground object-contain [image-rendering:pixelated]"
                    />
                    <figcaption className="pt-1 text-[13px] text-second">{one.title}</figcaption>
                  </figure>
                ),
            )}
          </div>
          {view && (
            <p className={`pt-3 figures ${view.largest === 0 ? "text-verdigris" : "text-ochre"}`}>
              {view.largest === 0
                ? "✓ every texel holds what it should"
                : `△ up to ${Number(view.largest.toFixed(3))} codes apart, ${view.mean.toFixed(3)} on average`}
            </p>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
