// A channel of the delivered file next to its source map and the difference.
import { useQuery } from "@tanstack/react-query";
import { queries } from "@/api/queries";
import { WideDialog } from "@/parts/wide-dialog";
import { TexelRow } from "./texel-row";

export interface ChannelOf {
  delivery: number;
  part: number;
  file: string;
  letter: string;
}

export function ChannelViewer({ of, onClose }: { of: ChannelOf; onClose: () => void }) {
  const { data: view, error } = useQuery(queries.channel(of));
  const figures = view && [
    ...(view.map ? [{ title: "source map", picture: view.map }] : []),
    { title: "expected", picture: view.expected },
    { title: "in the file", picture: view.held },
    { title: `difference × ${view.amplified}`, picture: view.difference },
  ];
  return (
    <WideDialog
      title={
        <>
          {of.letter} of <span className="figures">{of.file}</span>
        </>
      }
      about={view?.words}
      error={error}
      waiting="computing from the maps…"
      onClose={onClose}
    >
      {view && (
        <>
          <TexelRow
            pictures={figures ?? []}
            address={`/api/v1/deliveries/${of.delivery}/parts/${of.part}/files/${encodeURIComponent(of.file)}/channels/${of.letter}`}
            titles={{ map: "source map", expected: "expected", held: "in the file" }}
            apart={["held", "expected"]}
            amplified={view.amplified}
          />
          <p className={`pt-3 figures ${view.largest === 0 ? "text-verdigris" : "text-ochre"}`}>
            {view.largest === 0
              ? "✓ all texels as expected"
              : `△ differs by up to ${Number(view.largest.toFixed(3))} codes, ${view.mean.toFixed(3)} on average`}
          </p>
        </>
      )}
    </WideDialog>
  );
}
