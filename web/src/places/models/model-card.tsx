// A model: properties, table of materials, and the UV islands of the selected material.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, done, type ModelRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button, buttonClass } from "@/parts/button";
import { bytes, metres } from "@/parts/format";
import { Badge } from "@/parts/marks";
import { notify } from "@/parts/notices";
import { Islands } from "./islands";
import { defaultLink } from "./link-settings";
import { Materials } from "./materials";

interface Props {
  project: string;
  model: ModelRead;
  /** All models of the project; one may be the high-poly version of another. */
  models: ModelRead[];
}

export function ModelCard({ project, model, models }: Props) {
  const [chosen, setChosen] = useState(model.materials[0]?.name ?? null);
  const [uvSet, setUvSet] = useState(0);
  const material = model.materials.find((one) => one.name === chosen) ?? null;
  return (
    <li
      aria-label={model.name}
      className="grid grid-cols-[1fr_400px] gap-5 rounded-md border border-rule bg-card p-4"
    >
      <div className="min-w-0">
        <Head project={project} model={model} />
        <Materials
          project={project}
          model={model}
          models={models}
          chosen={chosen}
          onChoose={setChosen}
        />
      </div>
      <Islands model={model} material={material} uvSet={uvSet} onUvSet={setUvSet} />
    </li>
  );
}

function Head({ project, model }: { project: string; model: ModelRead }) {
  const { makeSets, remove, tieByName } = useModelActions(project, model);
  // A high-poly model doesn't need UVs.
  const free =
    model.serves.length > 0 ? [] : model.materials.filter((one) => one.sets.length === 0);
  const proposed = free.filter((one) => one.proposed !== null);
  return (
    <div className="mb-3">
      <div className="flex items-baseline gap-3">
        <h2 className="truncate text-lead font-semibold">{model.name}</h2>
        <span className="text-second figures">
          {model.triangles.toLocaleString()} triangles · {metres(model.extent)} wide ·{" "}
          {model.uv_sets} UV {model.uv_sets === 1 ? "set" : "sets"} · {bytes(model.bytes)}
        </span>
        <span className="ml-auto" />
        <a className={buttonClass("quiet")} href={`/api/v1/models/${model.id}/original`} download>
          Download original
        </a>
        <Button look="quiet" onClick={() => remove.mutate()}>
          Remove
        </Button>
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-2">
        <Badge tone="calm">
          MikkTSpace tangents{model.tangents ? " (the file's tangents aren't used)" : ""}
        </Badge>
        {model.colors && <Badge tone="calm">vertex colors</Badge>}
        {model.serves.length > 0 && (
          <Badge tone="good">high-poly of {model.serves.map((one) => one.name).join(", ")}</Badge>
        )}
        {model.remarks.map((one) => (
          <Badge key={one} tone="look">
            {one}
          </Badge>
        ))}
        <span className="ml-auto" />
        {proposed.length > 0 && (
          <Button onClick={() => tieByName.mutate()}>Link {proposed.length} by name</Button>
        )}
        {free.length > 0 && (
          <Button
            onClick={() => makeSets.mutate(free.map((one) => one.name))}
            disabled={makeSets.isPending}
            title="Creates a set for each material without one, with the maps that the file contains"
          >
            {makeSets.isPending
              ? "Creating sets…"
              : `Create ${free.length === 1 ? "set" : `${free.length} sets`}`}
          </Button>
        )}
      </div>
    </div>
  );
}

function useModelActions(project: string, model: ModelRead) {
  const client = useQueryClient();
  const fresh = () =>
    refresh(client, queries.models(project).queryKey, queries.tray(project).queryKey);
  const path = { params: { path: { model_id: model.id } } };
  const makeSets = useMutation({
    mutationFn: (materials: string[]) =>
      answer(api.POST("/api/v1/models/{model_id}/sets", { ...path, body: { materials } })),
    onSuccess: async ({ sets, remarks }) => {
      notify(
        "good",
        `${Object.keys(sets).length === 1 ? "1 set was" : `${Object.keys(sets).length} sets were`} created for ${model.name}.`,
      );
      for (const one of remarks.slice(0, 4)) notify("wrong", one);
      await fresh();
    },
  });
  const tieByName = useMutation({
    mutationFn: async () => {
      for (const { name, proposed, sets } of model.materials)
        if (proposed !== null && sets.length === 0)
          await answer(
            api.PUT("/api/v1/sets/{set_id}/model", {
              params: { path: { set_id: proposed } },
              body: { link: defaultLink(model, name) },
            }),
          );
    },
    onSettled: fresh,
  });
  const remove = useMutation({
    mutationFn: () => done(api.DELETE("/api/v1/models/{model_id}", path)),
    onSuccess: async () => {
      notify("good", `${model.name} was removed from the project.`);
      await fresh();
    },
  });
  return { makeSets, tieByName, remove };
}
