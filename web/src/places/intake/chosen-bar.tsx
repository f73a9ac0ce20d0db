// Actions for the selected rows.
import { useState } from "react";
import type { ArrivalRead, AssignmentChange, MapKind } from "@/api/client";
import { Button } from "@/parts/button";
import type { Choices } from "./file-row";
import { Pick } from "./native-select";

interface Props {
  rows: ArrivalRead[];
  choices: Choices;
  cards: string[];
  onChange: (change: AssignmentChange) => void;
  onCard: (card: string | null) => void;
  onAccept: () => void;
  onDismiss: () => void;
  onNone: () => void;
}

export function SelectionBar(props: Props) {
  const { rows, choices, cards, onChange, onCard, onAccept, onDismiss, onNone } = props;
  const [name, setName] = useState("");
  return (
    <section
      aria-label="Selected files"
      className="sticky bottom-3 mt-3 flex h-12 items-center gap-3 rounded-md bg-ink px-4 text-sheet"
    >
      <span className="font-semibold whitespace-nowrap">
        {rows.length} {rows.length === 1 ? "file" : "files"} selected
      </span>
      <button
        type="button"
        className="text-list underline-offset-2 hover:underline"
        onClick={onNone}
      >
        none
      </button>
      <form
        className="ml-3 flex"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) onChange({ set_name: name.trim() });
          setName("");
        }}
      >
        <input
          aria-label="Set of the selected files"
          placeholder="add to set…"
          className="h-field w-37.5 rounded-sm border border-rule bg-card px-2 text-ink"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </form>
      <Pick
        label="Map of the selected files"
        value=""
        options={[{ value: "", label: "set map…" }, ...choices.maps]}
        className="text-ink"
        onPick={(map) => map && onChange({ map: map as MapKind | "packed" | "none" })}
      />
      <Pick
        label="Green channel of the selected files"
        value=""
        options={[
          { value: "", label: "green…" },
          { value: "up", label: "Y+ up" },
          { value: "down", label: "Y− down" },
        ]}
        className="text-ink"
        onPick={(y) => y && onChange({ normal_y: y as "up" | "down" })}
      />
      {cards.length > 0 && (
        <Pick
          label="Source card of the selected files"
          value=""
          options={[
            { value: "", label: "source card…" },
            ...cards.map((card) => ({ value: `=${card}`, label: card })),
            { value: "-", label: "no source card" },
          ]}
          className="text-ink"
          onPick={(card) => card && onCard(card === "-" ? null : card.slice(1))}
        />
      )}
      <span className="ml-auto" />
      <button type="button" className="underline-offset-2 hover:underline" onClick={onDismiss}>
        Remove from Intake
      </button>
      <Button look="main" onClick={onAccept}>
        Accept
      </Button>
    </section>
  );
}
