// Interpretations of a photo, lit side by side; a click selects one.
import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import type { InterpretationRead, OperationRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { Segmented } from "@/parts/segmented";
import { editing } from "./map-definitions";
import { asked, type Draft, type DraftState } from "./use-draft";

export type About = "relief" | "light" | "invert";

const questions: Record<About, string> = {
  relief: "How deep is the relief?",
  light: "Where did the light come from?",
  invert: "Is bright high or low?",
};

interface Props {
  setId: number;
  state: DraftState;
  about: About;
  /** The light came from one side, so the interpretation is ambiguous. */
  lit: boolean;
  operations: OperationRead[];
  onAbout: (about: About) => void;
  onClose: () => void;
}

export function Readings({ setId, state, about, lit, operations, onAbout, onClose }: Props) {
  const { data, error } = useQuery(queries.interpretations(setId, about, asked(state.draft)));
  const take = ({ surface, maps }: InterpretationRead) => {
    state.commit((draft) => ({ ...draft, surface, maps: maps as Draft["maps"] }));
    onClose();
  };
  const options = [
    { value: "relief", label: "Relief" },
    { value: "light", label: "Light", disabled: !lit },
    { value: "invert", label: "Invert" },
  ] as const;
  return (
    <section
      aria-label="Starting points"
      className="absolute inset-0 flex flex-col gap-2 rounded-sm bg-ground p-2.5"
    >
      <div className="flex items-center gap-3">
        <Segmented label="Starting points" value={about} options={options} onChange={onAbout} />
        <h2 className="truncate text-list text-sheet">{questions[about]}</h2>
        <span className="ml-auto" />
        {about === "relief" && <Material state={state} operations={operations} />}
        <Button
          aria-label="Close starting points"
          title="Keep the current settings (Esc)"
          onClick={onClose}
          look="toggle"
          className="w-field shrink-0 px-0 text-ink"
        >
          <X className="size-4" aria-hidden="true" />
        </Button>
      </div>
      {error && <p className="rounded-sm bg-sheet p-2 text-ink">{error.message}</p>}
      <div
        className={`grid min-h-0 grow gap-2 ${about === "invert" ? "grid-cols-2" : "grid-cols-2 grid-rows-2"}`}
      >
        {(data ?? []).map((one) => (
          <Reading key={one.name} of={one} onTake={() => take(one)} />
        ))}
        {!data && !error && <p className="text-sheet">rendering…</p>}
      </div>
    </section>
  );
}

/** Input of the operation; roughness is shown with the relief because one preview shows both. */
function Material({ state, operations }: Pick<Props, "state" | "operations">) {
  const { roughness } = state.draft.maps;
  if (roughness?.how !== "derived") return null;
  const operation = operations.find((one) => one.name === roughness.operation);
  const parameter = operation?.parameters.find((one) => one.name === "material");
  if (!parameter) return null;
  const value = String(roughness.parameters?.material ?? parameter.default);
  return (
    <span className="flex w-29 shrink-0">
      <Choice
        label="Material"
        value={value}
        options={parameter.choices.map((one) => ({
          value: one,
          label: one === parameter.default ? "any material" : one,
        }))}
        onChange={(material) =>
          state.commit(
            editing("roughness", roughness, (now) => ({
              ...now,
              parameters: { ...now.parameters, material },
            })),
          )
        }
      />
    </span>
  );
}

function Reading({ of, onTake }: { of: InterpretationRead; onTake: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={of.current}
      onClick={onTake}
      className="group relative min-h-0 min-w-0 overflow-hidden rounded-sm border-2 border-transparent hover:border-sheet focus-visible:border-sheet aria-pressed:border-copper"
    >
      <img src={of.picture} alt="" className="size-full object-cover" />
      <span className="absolute inset-x-0 bottom-0 flex items-baseline gap-2 bg-ink/85 px-2 py-1 text-left text-sheet">
        <span className="font-medium whitespace-nowrap">{of.name}</span>
        <span className="truncate text-small">{of.words}</span>
        {of.current && <span className="ml-auto text-small whitespace-nowrap">current</span>}
      </span>
    </button>
  );
}
