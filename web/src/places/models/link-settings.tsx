// Link of a set to a model: UV set, and the high-poly model.
import { useQuery } from "@tanstack/react-query";
import type { ModelLink, ModelRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Choice } from "@/parts/choice";
import { NumberField } from "@/parts/number-field";
import { Tick } from "@/places/targets/form";

interface Props {
  setId: number;
  model: ModelRead;
  models: ModelRead[];
  onTie: (setId: number, link: ModelLink) => void;
}

const NONE = "none";

/** Defaults: the first UV set of a material, and no high-poly model. */
export function defaultLink(model: ModelRead, material: string): ModelLink {
  return {
    source: model.sha256,
    material,
    uv_set: 0,
    high_poly: null,
    cage: null,
    match_by_name: false,
    match_by_uvs: false,
  };
}

export function LinkSettings({ setId, model, models, onTie }: Props) {
  const { data: set } = useQuery(queries.set(setId));
  const link = set?.model;
  if (!link) return null;
  const others = models.filter((one) => one.id !== model.id);
  const put = (part: Partial<ModelLink>) => onTie(setId, { ...link, ...part });
  if (others.length === 0 && model.uv_sets < 2) return null;
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1.5 text-list">
      {model.uv_sets > 1 && (
        <span className="flex items-center gap-2">
          UVs
          <span className="w-24">
            <Choice
              label="UV set"
              value={String(link.uv_set)}
              options={Array.from({ length: model.uv_sets }, (_, n) => ({
                value: String(n),
                label: `UV set ${n + 1}`,
              }))}
              onChange={(value) => put({ uv_set: Number(value) })}
            />
          </span>
        </span>
      )}
      {others.length > 0 && (
        <span className="flex items-center gap-2">
          High-poly model
          <span className="w-52">
            <Choice
              label="High-poly model"
              value={link.high_poly ?? NONE}
              options={[
                { value: NONE, label: "none" },
                ...others.map((one) => ({ value: one.sha256, label: one.name })),
              ]}
              onChange={(value) => put({ high_poly: value === NONE ? null : value })}
            />
          </span>
        </span>
      )}
      {link.high_poly && (
        <>
          {!link.match_by_uvs && (
            <span
              className="flex items-center gap-2"
              title="Distance from the low-poly model at which rays start"
            >
              Cage
              <span className="w-20">
                <NumberField
                  label="Cage distance in millimeters; 0 is measured"
                  value={(link.cage ?? 0) * 1000}
                  low={0}
                  high={1e6}
                  onCommit={(value) => put({ cage: value > 0 ? value / 1000 : null })}
                />
              </span>
              <span className="text-second">{link.cage ? "mm" : "measured"}</span>
            </span>
          )}
          <Tick
            label="Subdivision"
            title="The high-poly model is a subdivision of this model: match by UVs instead of rays"
            checked={link.match_by_uvs}
            onChange={(match_by_uvs) => put({ match_by_uvs })}
          />
          <Tick
            label="Match parts by name"
            title="Only parts of both models that have the same name are matched"
            checked={link.match_by_name}
            onChange={(match_by_name) => put({ match_by_name })}
          />
        </>
      )}
    </div>
  );
}
