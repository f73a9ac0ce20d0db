import { describe, expect, it } from "vitest";
import type { KindRead, OperationRead, VocabularyRead } from "@/api/client";
import { makes, making, maskKind, maskOf, withMasks } from "./kinds";

const slot = { name: "map", takes: "detail_mask", as_output: false, prefers: [], required: true };
const operation = (name: string, outputs: string[], slots: object[] = []) =>
  ({
    name,
    outputs,
    slots,
    group: name === "value_from_range" ? "ranges" : "values",
  }) as unknown as OperationRead;
const mask1 = { ...maskKind("mask_1"), ranged_from: ["height"] } as KindRead;
const metallic = { ...mask1, kind: "metallic", is_mask: false } as KindRead;

describe("masks with names", () => {
  it("are kinds in lower case, as in the core", () => {
    expect(maskOf("Edge wear")).toBe("mask_edge_wear");
    expect(maskOf("  Größe—2 ")).toBe("mask_größe_2");
    expect(maskOf("!?")).toBeNull();
    expect(maskOf("x".repeat(41))).toBeNull();
    expect(maskKind("mask_edge_wear").title).toBe("Mask edge wear");
  });
  it("are added to the vocabulary where a set has them", () => {
    const vocabulary = { kinds: [mask1], operations: [] } as unknown as VocabularyRead;
    expect(withMasks(vocabulary, ["mask_1", "height"])).toBe(vocabulary);
    const kinds = withMasks(vocabulary, ["mask_dust", "mask_1", "mask_dust"]).kinds;
    expect(kinds.map((one) => one.kind)).toEqual(["mask_1", "mask_dust"]);
  });
  it("are made by what makes masks", () => {
    const dust = maskKind("mask_dust");
    expect(makes(operation("mask_from_model", ["detail_mask", "mask_1"]), dust)).toBe(true);
    expect(makes(operation("normal_from_height", ["normal"]), dust)).toBe(false);
    expect(makes(operation("value_from_range", ["metallic"]), metallic)).toBe(true);
  });
});

describe("an operation of many kinds", () => {
  it("takes what its kind takes", () => {
    const ranged = making(operation("value_from_range", ["mask_1"], [slot]), mask1);
    expect(ranged.slots[0]).toMatchObject({ takes: "detail_mask", prefers: ["height"] });
    const parts = operation("value_from_parts", ["metallic"], [{ ...slot, as_output: true }]);
    expect(making(parts, metallic).slots[0]).toMatchObject({ takes: "metallic", prefers: [] });
  });
});
