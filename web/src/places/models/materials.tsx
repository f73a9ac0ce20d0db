// Materials of a model with the linked sets.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { Link } from "react-router";
import { answer, api, type ModelLink, type ModelRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { defaultLink, LinkSettings } from "./link-settings";

interface Props {
  project: string;
  model: ModelRead;
  models: ModelRead[];
  chosen: string | null;
  onChoose: (material: string) => void;
}

const NONE = "none";

export function Materials({ project, model, models, chosen, onChoose }: Props) {
  const { data: tray } = useQuery(queries.tray(project));
  const link = useTie(project);
  const sets = (tray?.rows ?? []).map((one) => ({ value: String(one.id), label: one.name }));
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="border-b border-rule text-left text-small text-second">
          <th className="py-1 font-medium">Material</th>
          <th className="py-1 pr-4 text-right font-medium">Triangles</th>
          <th className="py-1 font-medium">Texture set</th>
        </tr>
      </thead>
      <tbody>
        {model.materials.map((one) => (
          <tr
            key={one.name}
            className={`border-b border-rule align-top ${one.name === chosen ? "bg-copper-pale" : ""}`}
          >
            <td className="py-1.5 pl-2">
              <button
                type="button"
                aria-pressed={one.name === chosen}
                className="text-left font-medium hover:text-copper"
                onClick={() => onChoose(one.name)}
              >
                {one.name}
              </button>
            </td>
            <td className="py-1.5 pr-4 text-right figures">{one.triangles.toLocaleString()}</td>
            <td className="py-1.5">
              <div className="flex flex-wrap items-center gap-2">
                {one.sets.map((set) => (
                  <span
                    key={set.id}
                    className="inline-flex h-field items-center gap-1 rounded-sm border border-rule bg-sheet px-2"
                  >
                    <Link className="hover:text-copper" to={`/${project}/bench/${set.id}`}>
                      {set.name}
                    </Link>
                    <Button
                      look="away"
                      aria-label={`Unlink ${set.name} from ${one.name}`}
                      title="Unlinks the set from this model. Undo on its Bench restores the link."
                      onClick={() => link.mutate({ setId: set.id, link: null })}
                    >
                      <X className="size-3.5" aria-hidden="true" />
                    </Button>
                  </span>
                ))}
                <span className="w-44">
                  <Choice
                    label={`Set for ${one.name}`}
                    value={NONE}
                    options={[
                      {
                        value: NONE,
                        label: one.sets.length > 0 ? "link another set…" : "link set…",
                      },
                      ...sets.filter((set) => !one.sets.some(({ id }) => String(id) === set.value)),
                    ]}
                    onChange={(value) =>
                      value !== NONE &&
                      link.mutate({
                        setId: Number(value),
                        link: defaultLink(model, one.name),
                      })
                    }
                  />
                </span>
              </div>
              {one.name === chosen && one.sets[0] && (
                <LinkSettings
                  setId={one.sets[0].id}
                  model={model}
                  models={models}
                  onTie={(setId, next) => link.mutate({ setId, link: next })}
                />
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function useTie(project: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ setId, link }: { setId: number; link: ModelLink | null }) =>
      answer(
        api.PUT("/api/v1/sets/{set_id}/model", {
          params: { path: { set_id: setId } },
          body: { link },
        }),
      ),
    onSuccess: async (saved) => {
      client.setQueryData(queries.set(saved.id).queryKey, saved);
      await refresh(client, queries.models(project).queryKey, queries.tray(project).queryKey);
    },
  });
}
