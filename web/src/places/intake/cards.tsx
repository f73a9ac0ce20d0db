// Source cards: suggested for matching files, created from corrections.
import { useState } from "react";
import type { ArrivalRead, CardOffer } from "@/api/client";
import { Button } from "@/parts/button";
import { words } from "@/parts/format";

function says(card: CardOffer["card"]): string {
  const marks = Object.entries(card.marks ?? {}).map(
    ([mark, kind]) => `“${mark}” means ${words(kind)}`,
  );
  const packed = Object.keys(card.packed ?? {}).map((mark) => `“${mark}” means packed`);
  const green = card.normal_y ? [`green ${card.normal_y}`] : [];
  const relief = card.relief ? [`relief ${card.relief}°`] : [];
  const licence = card.licence ? [card.licence] : [];
  return [...green, ...relief, ...marks.slice(0, 4), ...packed.slice(0, 2), ...licence].join(", ");
}

interface OfferProps {
  offer: CardOffer;
  onUse: () => void;
  onRefuse: () => void;
}

export function Offer({ offer, onUse, onRefuse }: OfferProps) {
  return (
    <section
      aria-label={`Source card ${offer.card.name}`}
      className="mb-3 flex items-center gap-3 rounded-md border border-copper bg-copper-pale px-4 py-2.5"
    >
      <p className="grow">
        {offer.ids.length} {offer.ids.length === 1 ? "file seems" : "files seem"} to come from{" "}
        <strong className="font-semibold">{offer.card.name}</strong>
        <span className="block text-small text-second">Source card: {says(offer.card)}</span>
      </p>
      <Button look="main" onClick={onUse}>
        Use source card
      </Button>
      <Button onClick={onRefuse}>Ignore</Button>
    </section>
  );
}

interface RememberProps {
  /** The rows of the same drop as the corrected one. */
  rows: ArrivalRead[];
  names: string[];
  onKeep: (card: { name: string; licence: string; where: string }) => void;
  onLeave: () => void;
}

export function Remember({ rows, names, onKeep, onLeave }: RememberProps) {
  const [card, setCard] = useState({ name: "", licence: "", where: "" });
  const field = (key: keyof typeof card, label: string, width: string, list?: string) => (
    <label className="text-small text-second">
      {label}
      <input
        className={`block h-7 rounded-sm border border-rule bg-card px-2 text-sm text-ink ${width}`}
        value={card[key]}
        list={list}
        onChange={(event) => setCard({ ...card, [key]: event.target.value })}
      />
    </label>
  );
  return (
    <form
      aria-label="Save corrections as a source card"
      className="mb-3 flex items-end gap-3 rounded-md border border-rule bg-sheet px-4 py-2.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (card.name.trim()) onKeep(card);
      }}
    >
      <p className="grow self-center">
        Do you expect more files from this source? Save your corrections of these {rows.length}{" "}
        files as a source card.
        <span className="block text-small text-second">
          Copper Sieve suggests the card for similar files.
        </span>
      </p>
      {field("name", "Source", "w-37.5", "source-card-names")}
      <datalist id="source-card-names">
        {names.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      {field("licence", "License", "w-30")}
      {field("where", "URL or note", "w-37.5")}
      <Button look="main" type="submit" disabled={!card.name.trim()}>
        Create source card
      </Button>
      <Button look="bare" onClick={onLeave}>
        Not now
      </Button>
    </form>
  );
}
