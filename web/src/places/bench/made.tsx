// The drawer's first column: by which way the map is made, and changing that.
import { MinusCircle, RotateCcw } from "lucide-react";
import { useRef } from "react";
import {
  type KindRead,
  type MapDefinition,
  type MapKind,
  type OperationRead,
  takeInMap,
} from "@/api/client";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { notify } from "@/parts/notices";
import { PICTURES } from "@/parts/pictures";
import { Column } from "./column";
import type { DraftState } from "./use-draft";
import { changeWay, fedBy, possibleOperations, replacing, takeOut, wayOf } from "./ways";

interface Props {
  kind: KindRead;
  definition: MapDefinition;
  state: DraftState;
  operations: OperationRead[];
  titleOf: (kind: MapKind) => string;
}

export function Made({ kind, definition, state, operations, titleOf }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  const operation = operations.find((one) => wayOf(definition) === one.name);
  const possible = possibleOperations(state.draft, kind.kind, operations);
  const shelved = state.draft.shelf[kind.kind] ?? [];
  const options = [
    ...possible.map((one) => ({
      value: one.name,
      label: `out of ${one.inputs.map(titleOf).join(" and ").toLowerCase()}`,
    })),
    { value: "constant", label: "one value" },
    { value: "imported", label: "a picture" },
  ];
  function change(way: string) {
    const isThere = definition.how === "imported" || shelved.some((one) => one.how === "imported");
    if (way === "imported" && !isThere) picker.current?.click();
    else state.settle(changeWay(kind, way));
  }
  async function bring(file: File | undefined) {
    if (!file) return;
    try {
      const taken = await takeInMap(kind.kind, file);
      state.settle(changeWay(kind, "imported", taken.definition));
    } catch (error) {
      notify("wrong", error instanceof Error ? error.message : `${file.name} could not be sent`);
    }
  }
  const fed = fedBy(state.draft, kind.kind, operations);
  const given = definition.how === "derived" ? (definition.parameters ?? {}) : {};
  return (
    <Column title="Made" wide={false}>
      <Choice label="Made" value={wayOf(definition)} options={options} onChange={change} />
      <p className="mt-1.5 text-[12.5px] text-second">
        {operation?.title ??
          (definition.how === "constant" ? "The same everywhere" : "As it came in")}
      </p>
      <input
        ref={picker}
        type="file"
        hidden
        accept={PICTURES}
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
          onClick={() => state.settle(replacing(kind.kind, { ...definition, parameters: {} }))}
        >
          <RotateCcw className="size-3.5" /> All as at first
        </Button>
      )}
      {definition.how === "imported" && (
        <Button look="bare" className="-ml-3" onClick={() => picker.current?.click()}>
          Another picture…
        </Button>
      )}
      {Object.keys(state.draft.maps).length > 1 && (
        <Button
          look="bare"
          className="-ml-3"
          disabled={fed.length > 0}
          title={
            fed.length > 0
              ? `${fed.map(titleOf).join(" and ")} come from it`
              : "The set does without it; Undo brings it back"
          }
          onClick={() => state.settle(takeOut(kind.kind))}
        >
          <MinusCircle className="size-3.5" /> Take out
        </Button>
      )}
    </Column>
  );
}
