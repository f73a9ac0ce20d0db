// Map cards in the order of derivation, with lines between a map and its inputs.
import { memo, useEffect, useRef } from "react";
import { Link } from "react-router";
import type { KindRead, MapKind, OperationRead } from "@/api/client";
import { origins } from "@/parts/marks";
import { AddMap } from "./add-map";
import { inputsOf } from "./map-definitions";
import type { Pictures } from "./picture-cache";
import type { Draft } from "./use-draft";

const CARD = 148;
const GAP = 8;
const LANE = 5;

export interface MapLink {
  from: number;
  to: number;
}

/** Pairs of card indices: input and derived map. */
export function linksOf(draft: Draft, order: MapKind[], operations: OperationRead[]): MapLink[] {
  return order.flatMap((kind, to) => {
    return [...new Set(inputsOf(draft.maps[kind], operations))]
      .map((input) => ({ from: order.indexOf(input), to }))
      .filter((feed) => feed.from >= 0);
  });
}

interface Props {
  draft: Draft;
  /** None while the source is prepared. */
  chosen: MapKind | null;
  pictures: Pictures;
  operations: OperationRead[];
  titleOf: (kind: MapKind) => string;
  addressOf: (kind: MapKind) => string;
  /** Map types that can be added. */
  missing: KindRead[];
  onAdd: (kind: KindRead) => void;
}

export function MapStrip({
  draft,
  chosen,
  pictures,
  operations,
  titleOf,
  addressOf,
  missing,
  onAdd,
}: Props) {
  const order = Object.keys(draft.maps) as MapKind[];
  const feeds = linksOf(draft, order, operations);
  const sources = [...new Set(feeds.map((feed) => feed.from))];
  const middle = (index: number) => index * (CARD + GAP) + CARD / 2;
  const chosenIndex = chosen ? order.indexOf(chosen) : -1;
  const lit = (feed: MapLink) => feed.from === chosenIndex || feed.to === chosenIndex;
  return (
    <div className="mt-1 min-w-0 grow overflow-x-auto pb-px">
      <svg
        width={order.length * (CARD + GAP)}
        height={LANE * sources.length + 7}
        className="block"
        aria-hidden="true"
      >
        {[...feeds]
          .sort((a, b) => Number(lit(a)) - Number(lit(b)))
          .map((feed) => {
            const lane = 3 + sources.indexOf(feed.from) * LANE;
            const shift = 3 * (sources.indexOf(feed.from) - 1);
            const floor = LANE * sources.length + 7;
            return (
              <path
                key={`${feed.from}-${feed.to}`}
                d={`M${middle(feed.from)},${floor} V${lane} H${middle(feed.to) + shift} V${floor}`}
                fill="none"
                strokeWidth={lit(feed) ? 1.6 : 1}
                className={lit(feed) ? "stroke-copper" : "stroke-second/45"}
              />
            );
          })}
      </svg>
      <ol className="flex" style={{ gap: GAP }}>
        {order.map((kind) => {
          const definition = draft.maps[kind];
          if (!definition) return null;
          const origin = origins[definition.how];
          const picture = pictures[kind];
          const value = definition.how === "constant" ? definition.value : null;
          return (
            <li key={kind} style={{ width: CARD }} className="shrink-0">
              <Link
                to={addressOf(kind)}
                replace
                aria-current={kind === chosen ? "true" : undefined}
                className="flex h-16 items-start gap-2 rounded-md border border-rule bg-sheet p-1.5 aria-[current]:border-copper aria-[current]:bg-card aria-[current]:outline aria-[current]:outline-copper"
              >
                <span className="relative grid size-12.5 shrink-0 place-items-center overflow-hidden rounded-sm bg-ground figures">
                  {value?.length === 1 ? (
                    <span className="grid size-full place-items-center border border-rule bg-sheet">
                      {Number(value[0]?.toFixed(3))}
                    </span>
                  ) : (
                    picture && <CardPicture picture={picture.picture} />
                  )}
                </span>
                <span className="min-w-0 leading-tight">
                  <span className="block truncate font-semibold" title={titleOf(kind)}>
                    {titleOf(kind)}
                  </span>
                  <span className="text-small text-second">
                    {origin.mark} {origin.word}
                  </span>
                </span>
              </Link>
            </li>
          );
        })}
        <li style={{ width: CARD }} className="shrink-0">
          <AddMap missing={missing} onAdd={onAdd} />
        </li>
      </ol>
    </div>
  );
}

/** Drawn only when the picture changes, because reducing a large one takes time. */
const CardPicture = memo(function CardPicture({ picture }: { picture: OffscreenCanvas }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext("2d", { willReadFrequently: true });
    if (!context) return;
    context.imageSmoothingQuality = "medium";
    const side = Math.min(picture.width, picture.height);
    context.drawImage(picture, 0, 0, side, side, 0, 0, 100, 100);
  }, [picture]);
  return <canvas ref={canvas} width={100} height={100} className="size-full" />;
});
