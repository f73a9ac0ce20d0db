// Definitions of a map, and switching between them without losing settings.
import type {
  Imported,
  KindRead,
  MapDefinition,
  MapKind,
  OperationRead,
  SlotRead,
} from "@/api/client";
import { makes, making } from "@/parts/kinds";
import type { Change, Draft } from "./use-draft";

type Derived = Extract<MapDefinition, { how: "derived" }>;
export type Filling = NonNullable<Derived["slots"]>[string];
type Meaning = KindRead["meaning"];

/** A definition type is an operation by its name, "constant", or "imported". */
export function definitionTypeOf(definition: MapDefinition): string {
  return definition.how === "derived" ? definition.operation : definition.how;
}

/** Maps of the set that a map uses directly, as inputs of its operation. */
export function inputsOf(definition: MapDefinition | undefined, all: OperationRead[]): MapKind[] {
  if (definition?.how !== "derived") return [];
  const inputs = all.find((one) => one.name === definition.operation)?.inputs ?? [];
  const filled = Object.values(definition.slots ?? {}).flatMap((one) =>
    one.how === "map" ? [one.kind] : [],
  );
  return [...inputs, ...filled];
}

/** Whether a map depends on another one, directly or indirectly. */
export function comesFrom(
  draft: Draft,
  kind: MapKind,
  source: MapKind,
  all: OperationRead[],
): boolean {
  if (kind === source) return true;
  return inputsOf(draft.maps[kind], all).some((input) => comesFrom(draft, input, source, all));
}

/** Whether a map can be used in place of another type, as in the core. */
export function readsAs(have: Meaning, wanted: Meaning): boolean {
  return have === wanted || wanted === "data" || (have === "data" && wanted === "color");
}

/** Maps of the set that can be an input of a map: readable, and independent of that map. */
export function fittingMaps(
  draft: Draft,
  kind: MapKind,
  slot: SlotRead,
  kinds: KindRead[],
  all: OperationRead[],
): MapKind[] {
  const meaning = (one: MapKind) => kinds.find((k) => k.kind === one)?.meaning;
  const wanted = meaning(slot.takes);
  return (Object.keys(draft.maps) as MapKind[]).filter((one) => {
    const have = meaning(one);
    return have && wanted && readsAs(have, wanted) && !comesFrom(draft, one, kind, all);
  });
}

/** Pictures of a map: its own, those of its inputs, and those of stored alternatives. */
export function ownPictures(draft: Draft, kind: MapKind): Imported[] {
  const present = draft.maps[kind];
  const all = [...(present ? [present] : []), ...(draft.shelf[kind] ?? [])];
  return all.flatMap((one) => {
    if (one.how === "imported") return [one];
    if (one.how !== "derived") return [];
    return Object.values(one.slots ?? {}).flatMap((filling) =>
      filling.how === "imported" ? [filling] : [],
    );
  });
}

export interface World {
  operations: OperationRead[];
  kinds: KindRead[];
  /** Mean slope in degrees by name. */
  reliefs: Record<string, number>;
}

/** Default inputs of an operation; null if a picture is required from the user. */
export function defaultInputs(
  draft: Draft,
  kind: MapKind,
  operation: OperationRead,
  { kinds, operations }: World,
): Record<string, Filling> | null {
  const fillings: Record<string, Filling> = {};
  for (const slot of operation.slots.filter((one) => one.required)) {
    const own = ownPictures(draft, kind)[0];
    const fitting = fittingMaps(draft, kind, slot, kinds, operations);
    const liked = slot.prefers.find((one) => fitting.includes(one));
    if (liked) fillings[slot.name] = { how: "map", kind: liked };
    else if (own) fillings[slot.name] = own;
    else if (slot.prefers.length > 0 && fitting[0])
      fillings[slot.name] = { how: "map", kind: fitting[0] };
    else return null;
  }
  return fillings;
}

/** Whether the map is or was made by this operation. Blended sets are created elsewhere only. */
function isBlended(draft: Draft, kind: MapKind, operation: string): boolean {
  const present = draft.maps[kind];
  if (present && definitionTypeOf(present) === operation) return true;
  return storedDefinition(draft, kind, operation) !== null;
}

/** Operations on a model require one; measured maps require captures. */
function hasSourceFor({ model, captures }: Draft, { takes_from }: OperationRead): boolean {
  if (takes_from === "captures") return captures !== null;
  if (takes_from === "high_poly") return Boolean(model?.high_poly);
  return !takes_from || model !== null;
}

/** Operations that can make the map: their inputs exist and don't depend on it. */
export function possibleOperations(
  draft: Draft,
  kind: KindRead,
  all: OperationRead[],
): OperationRead[] {
  const made = kind.kind;
  const possible = all.filter(
    (one) =>
      makes(one, kind) &&
      (!one.blends || isBlended(draft, made, one.name)) &&
      hasSourceFor(draft, one) &&
      one.inputs.every((input) => draft.maps[input] && !comesFrom(draft, input, made, all)),
  );
  return possible.map((one) => making(one, kind));
}

/** The operation of a name with the inputs that it has for a map. */
export function operationOf(
  all: OperationRead[],
  name: string,
  kind: KindRead,
): OperationRead | undefined {
  const found = all.find((one) => one.name === name);
  return found && making(found, kind);
}

/** Replace the definition of a map. */
export function replacing(kind: MapKind, definition: MapDefinition): Change {
  return (draft) => ({ ...draft, maps: { ...draft.maps, [kind]: definition } });
}

/**
 * Change a map's current definition, including later edits. No effect if it is made by another
 * operation by then.
 */
export function editing<How extends MapDefinition["how"]>(
  kind: MapKind,
  was: Extract<MapDefinition, { how: How }>,
  edit: (now: Extract<MapDefinition, { how: How }>) => MapDefinition,
): Change {
  return (draft) => {
    const now = draft.maps[kind];
    if (!now || definitionTypeOf(now) !== definitionTypeOf(was)) return draft;
    return replacing(kind, edit(now as Extract<MapDefinition, { how: How }>))(draft);
  };
}

/** Add a map: by the first possible operation, else as its neutral value. */
export function addMap(kind: KindRead, world: World): Change {
  return (draft) => {
    const shelved = draft.shelf[kind.kind]?.[0];
    if (shelved) return replacing(kind.kind, shelved)(draft);
    for (const one of possibleOperations(draft, kind, world.operations)) {
      const slots = defaultInputs(draft, kind.kind, one, world);
      if (slots) return replacing(kind.kind, plain(one, slots))(draft);
    }
    return replacing(kind.kind, { how: "constant", value: kind.neutral })(draft);
  };
}

function plain(operation: OperationRead, slots: Record<string, Filling>): Derived {
  return { how: "derived", operation: operation.name, parameters: {}, slots };
}

/** Maps that currently depend on this one. */
export function linksFrom(draft: Draft, kind: MapKind, all: OperationRead[]): MapKind[] {
  const kinds = Object.keys(draft.maps) as MapKind[];
  return kinds.filter((one) => one !== kind && comesFrom(draft, one, kind, all));
}

/** Remove a map from the set; its definition is kept as an alternative. */
export function takeOut(kind: MapKind): Change {
  return (draft) => {
    const { [kind]: present, ...maps } = draft.maps;
    if (!present) return draft;
    const shelved = draft.shelf[kind] ?? [];
    return { ...draft, maps, shelf: { ...draft.shelf, [kind]: [present, ...shelved] } };
  };
}

/** A definition that was used before, or null. */
export function storedDefinition(draft: Draft, kind: MapKind, way: string): MapDefinition | null {
  return draft.shelf[kind]?.find((one) => definitionTypeOf(one) === way) ?? null;
}

/**
 * The definition of a map by another operation: with its previous settings or defaults. Null if a
 * picture is required first.
 */
export function otherDefinition(
  draft: Draft,
  kind: KindRead,
  way: string,
  world: World,
): MapDefinition | null {
  const shelved = storedDefinition(draft, kind.kind, way);
  if (shelved) return shelved;
  if (way === "constant") return { how: "constant", value: kind.neutral };
  if (way === "imported") return ownPictures(draft, kind.kind)[0] ?? null;
  const operation = operationOf(world.operations, way, kind);
  const slots = operation && defaultInputs(draft, kind.kind, operation, world);
  return operation && slots ? plain(operation, slots) : null;
}

/** Replace the definition of a map; the present one is stored as an alternative. */
export function changeDefinition(kind: MapKind, next: MapDefinition): Change {
  return (draft) => {
    const present = draft.maps[kind];
    if (!present) return draft;
    const shelved = draft.shelf[kind] ?? [];
    const kept = shelved.filter(
      (one) => ![definitionTypeOf(present), definitionTypeOf(next)].includes(definitionTypeOf(one)),
    );
    const left = definitionTypeOf(present) === definitionTypeOf(next) ? [] : [present];
    return {
      ...draft,
      maps: { ...draft.maps, [kind]: next },
      shelf: { ...draft.shelf, [kind]: [...kept, ...left] },
    };
  };
}

/** Titles of operations in the list: by their inputs, with a distinction for equal inputs. */
export function definitionLabel(
  operation: OperationRead,
  possible: OperationRead[],
  titleOf: (kind: MapKind) => string,
): string {
  const lower = operation.title.charAt(0).toLowerCase() + operation.title.slice(1);
  if (operation.inputs.length === 0) return lower;
  const made = `from ${operation.inputs.map(titleOf).join(" and ").toLowerCase()}`;
  const alike = possible.filter((one) => one.inputs.join() === operation.inputs.join());
  return alike.length > 1 ? `${made}: ${lower}` : made;
}
