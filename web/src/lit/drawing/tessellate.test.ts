import { describe, expect, it } from "vitest";
import type { MeshData } from "./messages";
import { tessellated } from "./tessellate";

/** Two triangles at a right angle that share an edge; each has its own normal. */
const roof: MeshData = {
  key: "roof",
  head: {
    corners: 6,
    triangles: 2,
    borders: 0,
    groups: [
      { name: "left", first: 0, count: 1, first_border: 0, borders: 0 },
      { name: "right", first: 1, count: 1, first_border: 0, borders: 0 },
    ],
    low: [0, 0, 0],
    high: [1, 1, 1],
    uv_sets: 1,
  },
  positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]),
  normals: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
  uvs: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
  tangents: new Float32Array(24),
  borders: new Float32Array(0),
  corners: new Uint32Array([0, 1, 2, 3, 4, 5]),
};

function area(mesh: MeshData, first: number, count: number): number {
  let sum = 0;
  for (let t = first; t < first + count; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 2 * (mesh.corners[3 * t + k] as number)) as [
      number,
      number,
      number,
    ];
    const at = (i: number) => [mesh.uvs[i] as number, mesh.uvs[i + 1] as number] as const;
    const [[ax, ay], [bx, by], [cx, cy]] = [at(a), at(b), at(c)];
    sum += ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)) / 2;
  }
  return sum;
}

describe("tessellated", () => {
  const { mesh, away } = tessellated(roof, 2 * 25);
  it("cuts each triangle into equal ones that cover it and go round as it does", () => {
    expect(mesh.head.triangles).toBe(50);
    expect(mesh.head.groups.map(({ first, count }) => [first, count])).toEqual([
      [0, 25],
      [25, 25],
    ]);
    expect(area(mesh, 0, 25)).toBeCloseTo(0.5, 5);
    expect(area(mesh, 25, 25)).toBeCloseTo(0.5, 5);
    for (let t = 0; t < 50; t++) expect(area(mesh, t, 1)).toBeCloseTo(0.02, 5);
  });
  it("moves what lies at one place one way, whichever normals meet there", () => {
    const ways = new Map<string, Set<string>>();
    for (let i = 0; i < mesh.positions.length / 3; i++) {
      const place = [...mesh.positions.slice(3 * i, 3 * i + 3)].map((v) => v.toFixed(4)).join();
      const way = [...away.slice(3 * i, 3 * i + 3)].map((v) => v.toFixed(4)).join();
      ways.set(place, (ways.get(place) ?? new Set()).add(way));
    }
    expect(ways.get("0.4000,0.0000,0.0000")).toEqual(new Set(["0.0000,1.0000,1.0000"]));
    expect(Math.max(...[...ways.values()].map((one) => one.size))).toBe(1);
  });
  it("leaves what is fine enough as it is", () => {
    expect(tessellated(roof, 3).mesh.head.triangles).toBe(2);
  });
});
