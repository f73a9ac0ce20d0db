// The ways a map can be made, and changing from one to another without losing settings.
import type { KindRead, MapDefinition, MapKind, OperationRead } from "@/api/client";
import type { Change, Draft } from "./use-draft";

/** A way is an operation by its name, or "constant", or "imported". */
export function wayOf(definition: MapDefinition): string {
  return definition.how === "derived" ? definition.operation : definition.how;
}

/** Does a map, by whatever way, come from another one? */
function comesFrom(draft: Draft, kind: MapKind, source: MapKind, all: OperationRead[]): boolean {
  if (kind === source) return true;
  const definition = draft.maps[kind];
  if (definition?.how !== "derived") return false;
  const inputs = all.find((one) => one.name === definition.operation)?.inputs ?? [];
  return inputs.some((input) => comesFrom(draft, input, source, all));
}

/** Operations that could make the map now: their inputs are there and do not come from it. */
export function possibleOperations(
  draft: Draft,
  kind: MapKind,
  all: OperationRead[],
): OperationRead[] {
  return all.filter(
    (one) =>
      one.output === kind &&
      one.inputs.every((input) => draft.maps[input] && !comesFrom(draft, input, kind, all)),
  );
}

function plain(kind: KindRead, way: string): MapDefinition | null {
  if (way === "imported") return null;
  if (way === "constant") return { how: "constant", value: kind.neutral };
  return { how: "derived", operation: way, parameters: {} };
}

/** The change that gives a map another definition. */
export function replacing(kind: MapKind, definition: MapDefinition): Change {
  return (draft) => ({ ...draft, maps: { ...draft.maps, [kind]: definition } });
}

/** Add a map: by the first operation that can make it now, else as its neutral value. */
export function addMap(kind: KindRead, all: OperationRead[]): Change {
  return (draft) => {
    const way = possibleOperations(draft, kind.kind, all)[0]?.name ?? "constant";
    const definition = draft.shelf[kind.kind]?.[0] ?? plain(kind, way);
    return definition ? replacing(kind.kind, definition)(draft) : draft;
  };
}

/** Maps that are made of this one, as they are made now. */
export function fedBy(draft: Draft, kind: MapKind, all: OperationRead[]): MapKind[] {
  const kinds = Object.keys(draft.maps) as MapKind[];
  return kinds.filter((one) => one !== kind && comesFrom(draft, one, kind, all));
}

/** Take a map out of the set; how it was made stays on the shelf. */
export function takeOut(kind: MapKind): Change {
  return (draft) => {
    const { [kind]: present, ...maps } = draft.maps;
    if (!present) return draft;
    const shelved = draft.shelf[kind] ?? [];
    return { ...draft, maps, shelf: { ...draft.shelf, [kind]: [present, ...shelved] } };
  };
}

/** Put the present way on the shelf and take another one: the shelved, the given or a plain one. */
export function changeWay(kind: KindRead, way: string, given?: MapDefinition): Change {
  return (draft) => {
    const present = draft.maps[kind.kind];
    const shelved = draft.shelf[kind.kind] ?? [];
    const next = given ?? shelved.find((one) => wayOf(one) === way) ?? plain(kind, way);
    if (!present || !next) return draft;
    const kept = shelved.filter((one) => ![wayOf(present), wayOf(next)].includes(wayOf(one)));
    return {
      ...draft,
      maps: { ...draft.maps, [kind.kind]: next },
      shelf: {
        ...draft.shelf,
        [kind.kind]: [...kept, ...(wayOf(present) === way ? [] : [present])],
      },
    };
  };
}
