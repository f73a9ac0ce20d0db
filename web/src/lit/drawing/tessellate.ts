// Subdivide a model, so that a height map can displace its surface.
import type { MeshData } from "./messages";

/** Maximum number of triangles that render at interactive speed. */
const MOST = 400_000;
/** Maximum subdivisions of a side. */
const FINEST = 32;

export interface Tessellated {
  mesh: MeshData;
  /**
   * Displacement direction of each vertex: the mean of all normals at its position, so that the
   * surface stays closed along hard edges.
   */
  away: Float32Array<ArrayBuffer>;
}

/** Subdivide each triangle into n² similar ones, as far as performance allows. */
export function tessellated(mesh: MeshData, most = MOST): Tessellated {
  const { triangles } = mesh.head;
  const n = Math.max(1, Math.min(FINEST, Math.floor(Math.sqrt(most / Math.max(1, triangles)))));
  const each = ((n + 1) * (n + 2)) / 2;
  const count = triangles * each;
  const smooth = directions(mesh);
  const into = (width: number) => new Float32Array(count * width);
  const made = {
    positions: into(3),
    normals: into(3),
    uvs: into(2),
    tangents: into(4),
    away: into(3),
  };
  const kinds = [
    [mesh.positions, made.positions, 3],
    [mesh.normals, made.normals, 3],
    [mesh.uvs, made.uvs, 2],
    [mesh.tangents, made.tangents, 4],
    [smooth, made.away, 3],
  ] as const;
  const corners = new Uint32Array(triangles * n * n * 3);
  let out = 0;
  for (let t = 0; t < triangles; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => mesh.corners[3 * t + k] as number) as Three;
    let at = t * each;
    for (let row = 0; row <= n; row++)
      for (let column = 0; column <= n - row; column++, at++) {
        const [second, third] = [column / n, row / n];
        for (const [from, to, width] of kinds) blend(from, to, width, [a, b, c], second, third, at);
      }
    out = fan(corners, out, t * each, n);
  }
  const groups = mesh.head.groups.map((one) => ({
    ...one,
    first: one.first * n * n,
    count: one.count * n * n,
  }));
  const head = { ...mesh.head, groups, corners: count, triangles: triangles * n * n };
  const { away, ...values } = made;
  return { mesh: { ...mesh, ...values, key: `${mesh.key} ${n}`, head, corners }, away };
}

type Three = [number, number, number];

function blend(
  from: Float32Array,
  to: Float32Array,
  width: number,
  [a, b, c]: Three,
  second: number,
  third: number,
  at: number,
) {
  const first = 1 - second - third;
  for (let k = 0; k < width; k++)
    to[at * width + k] =
      (from[a * width + k] as number) * first +
      (from[b * width + k] as number) * second +
      (from[c * width + k] as number) * third;
}

/** Indices of the triangles inside one whose vertices start at `start`, in row order. */
function fan(corners: Uint32Array, out: number, start: number, n: number): number {
  let row = start;
  for (let r = 0; r < n; r++) {
    const long = n - r + 1;
    const next = row + long;
    for (let i = 0; i < long - 1; i++) {
      corners.set([row + i, row + i + 1, next + i], out);
      out += 3;
      if (i < long - 2) {
        corners.set([row + i + 1, next + i + 1, next + i], out);
        out += 3;
      }
    }
    row = next;
  }
  return out;
}

/** Sum of the normals of all vertices at each vertex's position. */
function directions(mesh: MeshData): Float32Array {
  const sums = new Map<string, Three>();
  const { positions, normals } = mesh;
  const corners = positions.length / 3;
  const names = Array.from({ length: corners }, (_, i) =>
    [positions[3 * i], positions[3 * i + 1], positions[3 * i + 2]].join(),
  );
  for (let i = 0; i < corners; i++) {
    const sum = sums.get(names[i] as string) ?? [0, 0, 0];
    for (let k = 0; k < 3; k++) sum[k] = (sum[k] as number) + (normals[3 * i + k] as number);
    sums.set(names[i] as string, sum);
  }
  const out = new Float32Array(corners * 3);
  for (let i = 0; i < corners; i++) out.set(sums.get(names[i] as string) as Three, 3 * i);
  return out;
}
