import { describe, expect, it } from "vitest";
import type { MeshData } from "@/lit/drawing/messages";
import { groupsOf, placeAt } from "./place-at";

const group = (name: string, first: number) => ({
  name,
  first,
  count: 1,
  first_border: 0,
  borders: 0,
});

/** Triangles of two materials that cover the same half of the map in different tiles. */
const mesh: MeshData = {
  key: "one",
  head: {
    corners: 6,
    triangles: 2,
    borders: 0,
    groups: [group("copper", 0), group("cedar", 1)],
    low: [0, 0, 0],
    high: [2, 2, 5],
    uv_sets: 1,
  },
  positions: new Float32Array([0, 0, 0, 2, 0, 0, 0, 2, 0, 0, 0, 5, 2, 0, 5, 0, 2, 5]),
  normals: new Float32Array(18),
  uvs: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
  tangents: new Float32Array(24),
  borders: new Float32Array(0),
  corners: new Uint32Array([0, 1, 2, 3, 4, 5]),
};

describe("placeAt", () => {
  it("weighs the corners of the triangle that lies there", () => {
    expect(placeAt(mesh, "copper", 0.25, 0.5)).toEqual([0.5, 1, 0]);
  });
  it("looks among the triangles of the set's material alone", () => {
    expect(placeAt(mesh, "cedar", 0.25, 0.5)).toEqual([0.5, 1, 5]);
    expect(groupsOf(mesh, "cedar").map((one) => one.first)).toEqual([1]);
  });
  it("takes the first of all where the set covers the whole model", () => {
    expect(placeAt(mesh, null, 0.25, 0.5)?.[2]).toBe(0);
  });
  it("finds nothing beside the islands, nor of a material that is not there", () => {
    expect(placeAt(mesh, "copper", 0.75, 0.75)).toBeNull();
    expect(placeAt(mesh, "glass", 0.25, 0.5)).toBeNull();
  });
});
