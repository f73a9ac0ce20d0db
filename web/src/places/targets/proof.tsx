// The set's material and the target's, shaded alike: what a conversion changed to the eye.
import { useQuery } from "@tanstack/react-query";
import { Sun } from "lucide-react";
import { useState } from "react";
import type { Schemas, TargetPreset } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { withoutEnding } from "@/parts/figures";
import { LitProof } from "./lit-proof";

const LAMPS = "lamps";

export function Proof({
  proof,
  preset,
  setId,
  light,
  onLight,
}: {
  proof: Schemas["ProofRead"];
  preset: TargetPreset;
  setId: number;
  /** The number of a surrounding of the project; null: lamps. */
  light: number | null;
  onLight: (light: number | null) => void;
}) {
  const { data: own } = useQuery(queries.surroundings(useProject()));
  const [lit, setLit] = useState(false);
  const good = proof.mean <= 1;
  return (
    <section
      aria-label="Conversion proof"
      className="mt-3 flex items-center gap-4 rounded-md border border-rule bg-card p-3"
    >
      {(
        [
          ["the set", proof.before],
          ["read back from the files", proof.after],
        ] as const
      ).map(([title, picture]) => (
        <figure key={title}>
          <img
            src={picture}
            alt={`Shaded, ${title}`}
            className="h-30 rounded-sm bg-ground object-contain"
          />
          <figcaption className="text-small text-second">{title}</figcaption>
        </figure>
      ))}
      <div className="leading-snug">
        <p className="font-medium">The same material under the same light?</p>
        <p className={`figures ${good ? "text-verdigris" : "text-ochre"}`}>
          {good ? "✓" : "△"} ΔE2000 {proof.mean.toFixed(2)} on average, {proof.largest.toFixed(2)}{" "}
          at most
        </p>
        <p className="max-w-105 text-small text-second">
          Both are shaded by one reference shader; up to 1 on average nobody sees it side by side.
        </p>
        {own && own.length > 0 && (
          <span className="mt-1.5 flex items-center gap-2 text-small">
            under
            <span className="w-42">
              <Choice
                label="Light of the proof"
                value={String(light ?? LAMPS)}
                options={[
                  { value: LAMPS, label: "three lamps" },
                  ...own.map((one) => ({ value: String(one.id), label: withoutEnding(one.name) })),
                ]}
                onChange={(next) => onLight(next === LAMPS ? null : Number(next))}
              />
            </span>
          </span>
        )}
        <Button className="mt-1.5" onClick={() => setLit(true)}>
          <Sun className="size-4" /> Both under a lamp
        </Button>
      </div>
      {lit && (
        <LitProof preset={preset} setId={setId} proof={proof} onClose={() => setLit(false)} />
      )}
    </section>
  );
}
