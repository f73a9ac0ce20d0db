// Convert a point of the flat map to the point of the model that shows it.
import type { MeshData } from "@/lit/drawing/messages";

export type Place = [number, number, number];
type Group = MeshData["head"]["groups"][number];

/** Triangles of the set's material, or all. */
export function groupsOf(mesh: MeshData, material: string | null): Group[] {
  const { groups } = mesh.head;
  return material === null ? groups : groups.filter((one) => one.name === material);
}

/** Position on the model at u, v in meters; null outside of islands. v goes down. */
export function placeAt(
  mesh: MeshData,
  material: string | null,
  u: number,
  v: number,
): Place | null {
  const { uvs, corners, positions } = mesh;
  for (const { first, count } of groupsOf(mesh, material)) {
    for (let t = first * 3; t < (first + count) * 3; t += 3) {
      const a = corners[t] as number;
      const b = corners[t + 1] as number;
      const c = corners[t + 2] as number;
      const x = uvs[2 * a] as number;
      const y = uvs[2 * a + 1] as number;
      const bx = (uvs[2 * b] as number) - x;
      const by = (uvs[2 * b + 1] as number) - y;
      const cx = (uvs[2 * c] as number) - x;
      const cy = (uvs[2 * c + 1] as number) - y;
      const area = bx * cy - by * cx;
      if (area === 0) continue;
      const second = ((u - x) * cy - (v - y) * cx) / area;
      const third = (bx * (v - y) - by * (u - x)) / area;
      if (second < 0 || third < 0 || second + third > 1) continue;
      const weigh = (axis: number) =>
        (positions[3 * a + axis] as number) * (1 - second - third) +
        (positions[3 * b + axis] as number) * second +
        (positions[3 * c + axis] as number) * third;
      return [weigh(0), weigh(1), weigh(2)];
    }
  }
  return null;
}
