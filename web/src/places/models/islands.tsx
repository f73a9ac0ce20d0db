// UV islands of a material: texel density, and problems with a picture of each.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { ModelRead, UvRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Segmented } from "@/parts/segmented";
import { Density } from "./density";

interface Props {
  model: ModelRead;
  material: ModelRead["materials"][number] | null;
  uvSet: number;
  onUvSet: (n: number) => void;
}

type Shows = "density" | UvRead["facts"][number]["rule"];

const weights = {
  error: { mark: "△", look: "text-wrong font-medium", word: "Error" },
  warning: { mark: "◇", look: "text-ochre", word: "Warning" },
  info: { mark: "·", look: "text-second", word: "Info" },
} as const;

export function Islands({ model, material, uvSet, onUvSet }: Props) {
  const name = material?.name ?? null;
  const { data: uv, error } = useQuery(queries.uv(model.id, name, uvSet));
  const [shows, setShows] = useState<Shows>("density");
  // biome-ignore lint/correctness/useExhaustiveDependencies: other islands begin with their density
  useEffect(() => setShows("density"), [name, uvSet]);
  const query = new URLSearchParams({ shows, uv_set: String(uvSet), side: "768" });
  if (name !== null) query.set("material", name);
  const drawn = uv && uv.count > 0;
  return (
    <section aria-label={`UV islands of ${name}, ${model.name}`} className="min-w-0">
      <div className="mb-1.5 flex items-center gap-2">
        <h3 className="truncate text-small font-medium text-second">UV islands of {name}</h3>
        {model.uv_sets > 1 && (
          <Segmented
            label="UV set"
            value={String(uvSet)}
            options={Array.from({ length: model.uv_sets }, (_, n) => ({
              value: String(n),
              label: `UV ${n + 1}`,
            }))}
            onChange={(n) => onUvSet(Number(n))}
          />
        )}
      </div>
      <div className="flex gap-3">
        <div className="relative size-52 shrink-0 overflow-hidden rounded-sm bg-ground">
          {drawn && (
            <img
              src={`/api/v1/models/${model.id}/uv.png?${query}`}
              alt={`UV view: ${shows.replaceAll("_", " ")}`}
              className="size-full"
            />
          )}
        </div>
        {uv && drawn && (
          <Density uv={uv} shown={shows === "density"} onShow={() => setShows("density")} />
        )}
      </div>
      {error && <p className="mt-2 text-wrong">{error.message}</p>}
      <ul className="mt-2 flex flex-col gap-1">
        {uv?.facts.map((fact) => (
          <li key={fact.rule}>
            <button
              type="button"
              aria-pressed={shows === fact.rule}
              disabled={!drawn}
              className={`w-full rounded-sm px-1.5 py-0.5 text-left text-list hover:bg-sheet aria-pressed:bg-sheet ${weights[fact.weight].look}`}
              onClick={() => setShows(fact.rule)}
            >
              <span aria-hidden="true">{weights[fact.weight].mark}</span>{" "}
              <span className="sr-only">{weights[fact.weight].word}: </span>
              {fact.text} <span className="text-small text-second figures">({fact.evidence})</span>
            </button>
          </li>
        ))}
        {uv && uv.facts.length === 0 && (
          <li className="text-list text-verdigris">No UV problems found.</li>
        )}
      </ul>
    </section>
  );
}
