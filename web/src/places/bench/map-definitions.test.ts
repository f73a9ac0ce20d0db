import { describe, expect, it } from "vitest";
import type { KindRead, MapDefinition, OperationRead } from "@/api/client";
import {
  addMap,
  changeDefinition,
  definitionLabel,
  definitionTypeOf,
  fittingMaps,
  inputsOf,
  linksFrom,
  otherDefinition,
  possibleOperations,
  takeOut,
} from "./map-definitions";
import { PLAIN } from "./prepare/preparing";
import type { Draft } from "./use-draft";

const operation = (name: string, output: string, inputs: string[], slots: object[] = []) =>
  ({
    name,
    outputs: [output],
    inputs,
    slots,
    title: `By ${name}`,
    parameters: [],
  }) as unknown as OperationRead;
const slot = (name: string, takes: string, required: boolean, prefers: string[] = []) => ({
  name,
  takes,
  required,
  prefers,
});
const all = [
  operation("height_from_color", "height", ["base_color"]),
  operation("height_from_normal", "height", ["normal"]),
  operation("normal_from_height", "normal", ["height"], [slot("second", "normal", false)]),
  operation("normal_from_picture", "normal", [], [slot("picture", "normal", true)]),
  operation("mask_from_range", "mask_1", [], [slot("map", "mask_1", true, ["height"])]),
];
const kind = (name: string, meaning: string, neutral: number[]) =>
  ({ kind: name, meaning, neutral, ranged_from: [] }) as unknown as KindRead;
const rough = kind("roughness", "data", [0.5]);
const normalKind = kind("normal", "normal", [0, 0, 1]);
const mask = kind("mask_1", "data", [0]);
const world = {
  operations: all,
  reliefs: { gentle: 4 },
  kinds: [rough, normalKind, mask, kind("height", "data", [0]), kind("base_color", "color", [0])],
};
const tuned = {
  how: "derived",
  operation: "roughness_from_color",
  parameters: { middle: 0.8 },
} as const;
const picture = { how: "imported", source: "ab" } as never;

function draft(maps: object): Draft {
  return {
    model: null,
    captures: null,
    prepare: PLAIN,
    surface: { tile_size: 1, depth: 0.02, relief: 6, wrap: false },
    maps: maps as Draft["maps"],
    shelf: {},
  };
}

function other(of: Draft, one: KindRead, way: string): Draft {
  return changeDefinition(one.kind, otherDefinition(of, one, way, world) as MapDefinition)(of);
}

describe("ways of making a map", () => {
  it("comes back with its settings after a constant and a picture", () => {
    const first = draft({ roughness: tuned });
    const constant = other(first, rough, "constant");
    expect(constant.maps.roughness).toEqual({ how: "constant", value: [0.5] });
    const valued = {
      ...constant,
      maps: { roughness: { how: "constant" as const, value: [0.3] } },
    };
    const imported = changeDefinition("roughness", picture)(valued);
    expect(imported.shelf.roughness?.map(definitionTypeOf)).toEqual([
      "roughness_from_color",
      "constant",
    ]);
    const back = other(imported, rough, "roughness_from_color");
    expect(back.maps.roughness).toEqual(tuned);
    const again = other(back, rough, "constant");
    expect(again.maps.roughness).toEqual({ how: "constant", value: [0.3] });
    expect(again.shelf.roughness?.map(definitionTypeOf).sort()).toEqual([
      "imported",
      "roughness_from_color",
    ]);
  });
  it("asks for a picture where there is none", () => {
    expect(otherDefinition(draft({ roughness: tuned }), rough, "imported", world)).toBeNull();
    expect(
      otherDefinition(draft({ normal: tuned }), normalKind, "normal_from_picture", world),
    ).toBeNull();
  });
  it("fills a slot with the map's own picture, or with a map it prefers", () => {
    const own = otherDefinition(
      draft({ normal: picture }),
      normalKind,
      "normal_from_picture",
      world,
    );
    expect(own).toMatchObject({ slots: { picture } });
    const height = { how: "derived", operation: "height_from_color" };
    const made = addMap(mask, world)(draft({ base_color: picture, height })).maps.mask_1;
    expect(made).toMatchObject({ slots: { map: { how: "map", kind: "height" } } });
    expect(inputsOf(made, all)).toEqual(["height"]);
  });
  it("offers for a slot what can be read so and is not made from the map", () => {
    const maps = {
      base_color: picture,
      height: { how: "derived", operation: "height_from_color" },
      normal: { how: "derived", operation: "normal_from_height" },
      mask_1: {
        how: "derived",
        operation: "mask_from_range",
        slots: { map: { how: "map", kind: "normal" } },
      },
    };
    const [, , toNormal, , toMask] = all.map((one) => one.slots[0]);
    if (!toNormal || !toMask) throw new Error("no slots");
    const into = (one: "mask_1" | "height" | "normal", which: typeof toMask) =>
      fittingMaps(draft(maps), one, which, world.kinds, all);
    expect(into("mask_1", toMask)).toEqual(["base_color", "height", "normal"]);
    expect(into("height", toMask)).toEqual(["base_color"]);
    expect(into("normal", toNormal)).toEqual([]);
  });
  it("adds a map by what can make it, and takes one out but remembers it", () => {
    const first = draft({ base_color: picture });
    const added = addMap(kind("height", "data", [0.5]), world)(first);
    expect(added.maps.height && definitionTypeOf(added.maps.height)).toBe("height_from_color");
    const emissive = kind("emissive", "color", [0, 0, 0]);
    expect(addMap(emissive, world)(first).maps.emissive).toEqual({
      how: "constant",
      value: [0, 0, 0],
    });
    expect(linksFrom(added, "base_color", all)).toEqual(["height"]);
    const tuned = draft({ roughness: { how: "constant", value: [0.3] } });
    const out = takeOut("roughness")(tuned);
    expect(out.maps.roughness).toBeUndefined();
    expect(addMap(rough, world)(out).maps.roughness).toEqual({ how: "constant", value: [0.3] });
  });
  it("is called by what it is made of, and told apart where that is alike", () => {
    const title = (one: string) => one;
    const [first, second] = all as [OperationRead, OperationRead];
    expect(definitionLabel(first, [first, second], title)).toBe("from base_color");
    const twin = { ...first, title: "Otherwise" };
    expect(definitionLabel(twin, [first, twin], title)).toBe("from base_color: otherwise");
  });
  it("takes from a model only where the set has one", () => {
    const of = { outputs: ["mask_1"], inputs: [], slots: [], blends: false };
    const ways = [
      { ...of, name: "mask_1_from_model", takes_from: "model" },
      { ...of, name: "mask_1_from_detailed", takes_from: "high_poly" },
    ] as unknown as OperationRead[];
    const link = { source: "ab", uv_set: 0, match_by_name: false };
    const names = (model: unknown) =>
      possibleOperations({ ...draft({}), model } as Draft, mask, ways).map((one) => one.name);
    expect(names(null)).toEqual([]);
    expect(names(link)).toEqual(["mask_1_from_model"]);
    expect(names({ ...link, high_poly: "cd" })).toEqual(ways.map((one) => one.name));
  });
  it("never offers a circle", () => {
    const names = (maps: object) =>
      possibleOperations(draft(maps), kind("height", "data", [0]), all).map((one) => one.name);
    const height = { how: "derived", operation: "height_from_color" };
    const normal = { how: "derived", operation: "normal_from_height" };
    expect(names({ base_color: picture, height, normal })).toEqual(["height_from_color"]);
    expect(names({ base_color: picture, height, normal: picture })).toEqual([
      "height_from_color",
      "height_from_normal",
    ]);
    expect(names({ normal: picture })).toEqual(["height_from_normal"]);
  });
});
