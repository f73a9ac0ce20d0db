// Map types: those of the vocabulary, and masks with names of the user's own.
import type { KindRead, MapKind, OperationRead, VocabularyRead } from "@/api/client";
import { words } from "./format";

const MASK = "mask_";
const LONGEST_NAME = 40;

/** Map type of a mask with a name such as "Edge wear", as in the core; null if it has none. */
export function maskOf(name: string): MapKind | null {
  const plain = name.normalize("NFC").toLowerCase();
  const word = plain.replace(/[^\p{L}\p{N}]+/gu, "_").replace(/^_+|_+$/g, "");
  return word && word.length <= LONGEST_NAME ? `${MASK}${word}` : null;
}

/** The vocabulary with the masks among these map types that it doesn't declare. */
export function withMasks(vocabulary: VocabularyRead, used: Iterable<string>): VocabularyRead {
  const declared = new Set(vocabulary.kinds.map((one) => one.kind));
  const masks = ([...new Set(used)] as MapKind[]).filter(
    (one) => one.startsWith(MASK) && !declared.has(one),
  );
  if (masks.length === 0) return vocabulary;
  return { ...vocabulary, kinds: [...vocabulary.kinds, ...masks.map((one) => maskKind(one))] };
}

/** Facts about a mask with a name. */
export function maskKind(kind: MapKind): KindRead {
  return {
    kind,
    title: `M${words(kind).slice(1)}`,
    meaning: "data",
    components: ["v"],
    neutral: [0],
    multiplies: true,
    is_mask: true,
    ranged_from: ["base_color"],
  };
}

/** Whether an operation can make maps of a type. */
export function makes(operation: OperationRead, { kind, is_mask }: KindRead): boolean {
  return operation.outputs.includes(kind) || (is_mask && operation.outputs.includes("detail_mask"));
}

/** The operation with the inputs that it has for this type of map. */
export function making(operation: OperationRead, kind: KindRead): OperationRead {
  const ranged = operation.group === "ranges" ? kind.ranged_from : [];
  const slots = operation.slots.map((slot) => ({
    ...slot,
    takes: slot.as_output ? kind.kind : slot.takes,
    prefers: slot.prefers.length > 0 ? slot.prefers : ranged,
  }));
  return { ...operation, slots };
}
