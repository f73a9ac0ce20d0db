// First column of the settings: how the map is made, and changing that.
import { MinusCircle, RotateCcw } from "lucide-react";
import { useRef } from "react";
import {
  importMap,
  type KindRead,
  type MapDefinition,
  type MapKind,
  type OperationRead,
  type SlotRead,
} from "@/api/client";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { notify } from "@/parts/notices";
import { useEndings } from "@/parts/pictures";
import { Column } from "./column";
import {
  changeDefinition,
  definitionLabel,
  definitionTypeOf,
  editing,
  linksFrom,
  operationOf,
  otherDefinition,
  possibleOperations,
  takeOut,
  type World,
} from "./map-definitions";
import type { DraftState } from "./use-draft";

interface Props {
  kind: KindRead;
  definition: MapDefinition;
  state: DraftState;
  world: World;
  titleOf: (kind: MapKind) => string;
}

export function DefinitionColumn({ kind, definition, state, world, titleOf }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  /** Target of the picture: the map itself, or an input of an operation. */
  const asked = useRef<{ operation: OperationRead; slot: SlotRead } | null>(null);
  const { operations } = world;
  const operation = operationOf(operations, definitionTypeOf(definition), kind);
  const possible = possibleOperations(state.draft, kind, operations);
  const options = [
    ...possible.map((one) => ({ value: one.name, label: definitionLabel(one, possible, titleOf) })),
    { value: "constant", label: "constant" },
    { value: "imported", label: "imported picture" },
  ];
  function ask(way: string) {
    const wanted = operationOf(operations, way, kind);
    const slot = wanted?.slots.find((one) => one.required);
    asked.current = wanted && slot ? { operation: wanted, slot } : null;
    picker.current?.click();
  }
  function change(way: string) {
    const next = otherDefinition(state.draft, kind, way, world);
    if (next) state.commit(changeDefinition(kind.kind, next));
    else ask(way);
  }
  const { pictures } = useEndings();
  async function bring(file: File | undefined) {
    if (!file) return;
    const into = asked.current;
    try {
      const taken = await importMap(into?.slot.takes ?? kind.kind, file);
      const next: MapDefinition = into
        ? {
            how: "derived",
            operation: into.operation.name,
            parameters: {},
            slots: { [into.slot.name]: taken.definition },
          }
        : taken.definition;
      state.commit(changeDefinition(kind.kind, next));
    } catch (error) {
      notify("wrong", error instanceof Error ? error.message : `${file.name} couldn't be uploaded`);
    }
  }
  const fed = linksFrom(state.draft, kind.kind, operations);
  const given = definition.how === "derived" ? (definition.parameters ?? {}) : {};
  return (
    <Column title="Source" wide={false}>
      <Choice
        label="Source"
        value={definitionTypeOf(definition)}
        options={options}
        onChange={change}
      />
      <p className="mt-1.5 text-small text-second">
        {operation?.title ?? (definition.how === "constant" ? "Same value everywhere" : "Imported")}
      </p>
      <input
        ref={picker}
        type="file"
        hidden
        accept={pictures}
        aria-label={`Picture for ${kind.title}`}
        onChange={(event) => {
          void bring(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {definition.how === "derived" && (
        <Button
          look="bare"
          className="-ml-3"
          disabled={Object.keys(given).length === 0}
          onClick={() =>
            state.commit(editing(kind.kind, definition, (now) => ({ ...now, parameters: {} })))
          }
        >
          <RotateCcw className="size-3.5" /> Reset all
        </Button>
      )}
      {definition.how === "imported" && (
        <Button look="bare" className="-ml-3" onClick={() => ask("imported")}>
          Replace picture…
        </Button>
      )}
      {Object.keys(state.draft.maps).length > 1 && (
        <Button
          look="bare"
          className="-ml-3"
          disabled={fed.length > 0}
          title={
            fed.length > 0
              ? `used by ${fed.map(titleOf).join(" and ")}`
              : "Removes this map from the set. Undo restores it."
          }
          onClick={() => state.commit(takeOut(kind.kind))}
        >
          <MinusCircle className="size-3.5" /> Remove map
        </Button>
      )}
    </Column>
  );
}
