// Set and target under the same shading, to show the effect of a conversion.
import { useQuery } from "@tanstack/react-query";
import { Sun } from "lucide-react";
import { useState } from "react";
import type { Schemas, TargetPreset } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { withoutEnding } from "@/parts/format";
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
  /** Id of a project environment; null: three lights. */
  light: number | null;
  onLight: (light: number | null) => void;
}) {
  const { data: own } = useQuery(queries.environments(useProject()));
  const [lit, setLit] = useState(false);
  const good = proof.mean <= 1;
  return (
    <section
      aria-label="Conversion check"
      className="mt-3 flex items-center gap-4 rounded-md border border-rule bg-card p-3"
    >
      {(
        [
          ["set", proof.before],
          ["files read back", proof.after],
        ] as const
      ).map(([title, picture]) => (
        <figure key={title}>
          <img
            src={picture}
            alt={`Rendered, ${title}`}
            className="h-30 rounded-sm bg-ground object-contain"
          />
          <figcaption className="text-small text-second">{title}</figcaption>
        </figure>
      ))}
      <div className="leading-snug">
        <p className="font-medium">Does the material look the same under the same light?</p>
        <p className={`figures ${good ? "text-verdigris" : "text-ochre"}`}>
          {good ? "✓" : "△"} ΔE2000 {proof.mean.toFixed(2)} on average, {proof.largest.toFixed(2)}{" "}
          maximum
        </p>
        <p className="max-w-105 text-small text-second">
          Both are rendered with the same reference shader. An average below 1 isn't visible side by
          side.
        </p>
        {own && own.length > 0 && (
          <span className="mt-1.5 flex items-center gap-2 text-small">
            under
            <span className="w-42">
              <Choice
                label="Light"
                value={String(light ?? LAMPS)}
                options={[
                  { value: LAMPS, label: "three lights" },
                  ...own.map((one) => ({ value: String(one.id), label: withoutEnding(one.name) })),
                ]}
                onChange={(next) => onLight(next === LAMPS ? null : Number(next))}
              />
            </span>
          </span>
        )}
        <Button className="mt-1.5" onClick={() => setLit(true)}>
          <Sun className="size-4" /> Compare under a light
        </Button>
      </div>
      {lit && (
        <LitProof preset={preset} setId={setId} proof={proof} onClose={() => setLit(false)} />
      )}
    </section>
  );
}
