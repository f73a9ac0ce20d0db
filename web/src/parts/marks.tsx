import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";
import type { MapDefinition } from "@/api/client";

/** Origin of a map by shape: square imported, ring derived, dot constant. */
export const origins = {
  imported: { mark: "□", word: "imported" },
  derived: { mark: "○", word: "derived" },
  constant: { mark: "●", word: "constant" },
} as const satisfies Record<MapDefinition["how"], { mark: string; word: string }>;

export function Hint({ text, children }: { text: ReactNode; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={5}
          className="z-50 max-w-72 rounded-sm bg-ink px-2 py-1 text-small text-sheet"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

const tones = {
  good: "bg-verdigris-pale text-verdigris border-verdigris-pale",
  open: "bg-card text-verdigris border-verdigris",
  stale: "bg-paper text-second border-second border-dashed",
  look: "bg-ochre-pale text-ochre border-ochre-pale",
  wrong: "bg-wrong-pale text-wrong border-wrong-pale",
  calm: "bg-sheet text-second border-rule",
} as const satisfies Record<string, string>;

/** A short state as text with its own symbol, so that color isn't the only sign. */
export function Badge({ tone, children }: { tone: keyof typeof tones; children: ReactNode }) {
  return (
    <span
      className={`inline-flex items-center gap-1 rounded-full border px-2.5 py-px text-small font-medium whitespace-nowrap ${tones[tone]}`}
    >
      {children}
    </span>
  );
}

const weights = {
  info: { word: "Info", look: "text-second" },
  warning: { word: "Warning", look: "text-ochre" },
  error: { word: "Error", look: "text-wrong font-medium" },
} as const;

/** A finding with its severity as text, so that color isn't the only sign. */
export function RemarkLine({ weight, text }: { weight: keyof typeof weights; text: string }) {
  const { word, look } = weights[weight];
  return (
    <p className={`mt-1 text-list ${look}`}>
      <span className="inline-block min-w-26">{word}</span> {text}
    </p>
  );
}
