import { describe, expect, it } from "vitest";
import type { KindRead, OperationRead } from "@/api/client";
import type { Draft } from "./use-draft";
import { addMap, changeWay, fedBy, possibleOperations, takeOut, wayOf } from "./ways";

const operation = (name: string, output: string, inputs: string[]) =>
  ({ name, output, inputs, version: 1, title: name, parameters: [] }) as unknown as OperationRead;
const all = [
  operation("height_from_color", "height", ["base_color"]),
  operation("height_from_normal", "height", ["normal"]),
  operation("normal_from_height", "normal", ["height"]),
];
const rough = { kind: "roughness", neutral: [0.5] } as unknown as KindRead;
const tuned = {
  how: "derived",
  operation: "roughness_from_color",
  parameters: { middle: 0.8 },
} as const;
const picture = { how: "imported", source: "ab" } as never;

function draft(maps: object): Draft {
  return { surface: { tile_size: 1, depth: 0.02, wrap: false }, maps, shelf: {} };
}

describe("ways of making a map", () => {
  it("comes back with its settings after a constant and a picture", () => {
    const first = draft({ roughness: tuned });
    const constant = changeWay(rough, "constant")(first);
    expect(constant.maps.roughness).toEqual({ how: "constant", value: [0.5] });
    const valued = {
      ...constant,
      maps: { roughness: { how: "constant" as const, value: [0.3] } },
    };
    const imported = changeWay(rough, "imported", picture)(valued);
    expect(imported.shelf.roughness?.map(wayOf)).toEqual(["roughness_from_color", "constant"]);
    const back = changeWay(rough, "roughness_from_color")(imported);
    expect(back.maps.roughness).toEqual(tuned);
    const again = changeWay(rough, "constant")(back);
    expect(again.maps.roughness).toEqual({ how: "constant", value: [0.3] });
    expect(again.shelf.roughness?.map(wayOf).sort()).toEqual(["imported", "roughness_from_color"]);
  });
  it("changes nothing for a picture that is not there", () => {
    const first = draft({ roughness: tuned });
    expect(changeWay(rough, "imported")(first)).toBe(first);
  });
  it("adds a map by what can make it, and takes one out but remembers it", () => {
    const first = draft({ base_color: picture });
    const height = { kind: "height", neutral: [0.5] } as unknown as KindRead;
    const added = addMap(height, all)(first);
    expect(added.maps.height && wayOf(added.maps.height)).toBe("height_from_color");
    const emissive = { kind: "emissive", neutral: [0, 0, 0] } as unknown as KindRead;
    expect(addMap(emissive, all)(first).maps.emissive).toEqual({
      how: "constant",
      value: [0, 0, 0],
    });
    expect(fedBy(added, "base_color", all)).toEqual(["height"]);
    const tuned = draft({ roughness: { how: "constant", value: [0.3] } });
    const out = takeOut("roughness")(tuned);
    expect(out.maps.roughness).toBeUndefined();
    expect(addMap(rough, all)(out).maps.roughness).toEqual({ how: "constant", value: [0.3] });
  });
  it("never offers a circle", () => {
    const names = (maps: object) =>
      possibleOperations(draft(maps), "height", all).map((one) => one.name);
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
