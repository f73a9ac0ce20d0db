// Gray card in the captures, marked by a circle; it measures light intensity and color.
import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Schemas } from "@/api/client";
import { notify } from "@/parts/notices";
import { NumberField } from "@/parts/number-field";
import type { ToolProps } from "../prepare/frame-tools";
import { Handle } from "../prepare/handle";
import { within } from "../prepare/preparing";
import { asked, type Draft, type DraftState } from "../use-draft";
import { withShots } from "./captures";
import { Circle } from "./circle";

type Card = Schemas["GrayCardSpec"];

const RADIUS = 0.012;
const CARDS = [
  { reflectance: 0.18, title: "gray card" },
  { reflectance: 0.9, title: "white paper" },
];

interface Props extends ToolProps {
  setId: number;
  draft: Draft;
  state: DraftState;
}

export function GrayCardTool({ lay, shown, setId, draft, state }: Props) {
  const kept = draft.captures?.gray_card ?? null;
  const tall = lay.height / lay.width;
  const middle = { x: 0.5, y: 0.5 * tall, reflectance: 0.18 };
  const [card, setCard] = useState<Card>(kept ?? middle);
  useEffect(() => {
    if (kept) setCard(kept);
  }, [kept]);
  const tell = useMutation({
    mutationFn: (at: Card) =>
      answer(
        api.POST("/api/v1/sets/{set_id}/gray-cards", {
          params: { path: { set_id: setId } },
          body: { card: at, draft: asked(draft) },
        }),
      ),
    onSuccess: (found) => state.commit(withShots(found)),
    onError: (error) => {
      setCard(kept ?? middle);
      notify("wrong", error.message);
    },
  });
  const put = (next: Card) => {
    setCard(next);
    tell.mutate(next);
  };
  return (
    <>
      <Circle lay={lay} x={card.x} y={card.y} radius={RADIUS} className="stroke-card" />
      <Handle
        label="Position of the gray card"
        place={[card.x, card.y / tall]}
        lay={lay}
        shown={shown}
        onMove={(place) => {
          const [x, y] = within(place);
          setCard({ ...card, x, y: y * tall });
        }}
        onCommit={() => put(card)}
      />
      <div className="absolute bottom-2.5 left-2.5 flex items-center gap-2 rounded-sm bg-card px-2 py-1 text-ink">
        <span>Reflectance</span>
        <span className="w-18">
          <NumberField
            label="Share of the light that the card or paper reflects"
            value={(card.reflectance ?? 0.18) * 100}
            low={1}
            high={100}
            places={0}
            unit="%"
            onCommit={(next) => put({ ...card, reflectance: next / 100 })}
          />
        </span>
        {CARDS.map((one) => (
          <button
            key={one.title}
            type="button"
            className="text-copper underline-offset-2 hover:underline"
            onClick={() => put({ ...card, reflectance: one.reflectance })}
          >
            {one.title}
          </button>
        ))}
        <output className="text-second">{status(tell.isPending, draft)}</output>
      </div>
    </>
  );
}

/** Relative red, green and blue of the light, measured on the card. */
function status(pending: boolean, draft: Draft): string {
  if (pending) return "measuring the light…";
  if (!draft.captures?.gray_card) return "Put the circle onto the card";
  const { red = 1, green = 1, blue = 1 } = draft.captures.tint ?? {};
  return `light color ${[red, green, blue].map((one) => one.toFixed(2)).join(" : ")}`;
}
