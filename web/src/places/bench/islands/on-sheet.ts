// UVs of a model over all tiles of a set, in the arrangement of its maps.
import type { MeshData } from "@/lit/drawing/messages";
import type { Sheet } from "@/parts/sheet";
import { groupsOf } from "./place-at";

/** The mesh with the islands of a material moved; unchanged if the set has no tiles. */
export function onSheet(mesh: MeshData, material: string | null, sheet: Sheet | null): MeshData {
  if (!sheet) return mesh;
  const uvs = mesh.uvs.slice();
  const borders = mesh.borders.slice();
  const moved = new Set<number>();
  const u = (at: number) => (at - sheet.left) / sheet.columns;
  const v = (at: number) => (at - sheet.top) / sheet.rows;
  for (const { first, count, first_border, borders: pieces } of groupsOf(mesh, material)) {
    for (let i = first * 3; i < (first + count) * 3; i++) {
      const corner = mesh.corners[i] as number;
      if (moved.has(corner)) continue;
      moved.add(corner);
      uvs[2 * corner] = u(uvs[2 * corner] as number);
      uvs[2 * corner + 1] = v(uvs[2 * corner + 1] as number);
    }
    for (let i = first_border * 4; i < (first_border + pieces) * 4; i += 2) {
      borders[i] = u(borders[i] as number);
      borders[i + 1] = v(borders[i + 1] as number);
    }
  }
  const key = `${mesh.key} ${material ?? ""} ${sheet.numbers.join()}`;
  return { ...mesh, key, uvs, borders };
}
