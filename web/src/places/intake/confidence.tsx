// Confidence of a detection: a word and a symbol, so that color isn't the only sign.
import { Hint } from "@/parts/marks";

export type DecidedBy = "detected" | "card" | "user";

function level(confidence: number): { word: string; full: number } {
  if (confidence >= 0.85) return { word: "sure", full: 3 };
  if (confidence >= 0.6) return { word: "likely", full: 2 };
  return { word: "uncertain", full: 1 };
}

export function ConfidenceMark({
  confidence,
  decidedBy,
  reason,
}: {
  confidence: number;
  decidedBy: DecidedBy;
  reason: string;
}) {
  if (decidedBy !== "detected")
    return (
      <span className="text-note text-verdigris">
        {decidedBy === "user" ? "set manually" : "from the source card"}
      </span>
    );
  const { word, full } = level(confidence);
  return (
    <Hint text={`${Math.round(confidence * 100)} %: ${reason}`}>
      <span
        className={`inline-flex items-center gap-1 text-note ${full === 1 ? "text-ochre" : "text-second"}`}
      >
        <span aria-hidden="true" className="inline-flex gap-px">
          {[1, 2, 3].map((n) => (
            <span
              key={n}
              className={`h-2.25 w-1 border border-current ${n <= full ? "bg-current" : ""}`}
            />
          ))}
        </span>
        {word}
      </span>
    </Hint>
  );
}
