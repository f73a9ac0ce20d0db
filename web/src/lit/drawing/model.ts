// A model as geometry, with one group of triangles for each of its materials.
import * as THREE from "three";
import type { MeshData } from "./messages";

/** Half the diagonal of a model's bounds in the scene's units. */
const RADIUS = 1.3;

export interface ModelBody {
  geometry: THREE.BufferGeometry;
  /** Material names of the groups, in order. */
  materials: string[];
  /** Scene units per meter. */
  scale: number;
  middle: THREE.Vector3;
}

/** Create the geometry of a mesh, with its MikkTSpace tangents. */
export function modelBody(mesh: MeshData): ModelBody {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(mesh.positions, 3));
  geometry.setAttribute("normal", new THREE.BufferAttribute(mesh.normals, 3));
  geometry.setAttribute("uv", new THREE.BufferAttribute(upwards(mesh.uvs), 2));
  if (mesh.head.uv_sets > 0)
    geometry.setAttribute("tangent", new THREE.BufferAttribute(mesh.tangents, 4));
  geometry.setIndex(new THREE.BufferAttribute(mesh.corners, 1));
  for (const [n, group] of mesh.head.groups.entries())
    geometry.addGroup(group.first * 3, group.count * 3, n);
  const low = new THREE.Vector3(...mesh.head.low);
  const high = new THREE.Vector3(...mesh.head.high);
  const middle = low.clone().add(high).multiplyScalar(0.5);
  const radius = Math.max(high.distanceTo(low) / 2, 1e-9);
  return {
    geometry,
    materials: mesh.head.groups.map((one) => one.name),
    scale: RADIUS / radius,
    middle,
  };
}

/** Flip v, which goes down in pictures and up in textures. */
function upwards(uvs: Float32Array<ArrayBuffer>): Float32Array<ArrayBuffer> {
  const turned = uvs.slice();
  for (let i = 1; i < turned.length; i += 2) turned[i] = 1 - (turned[i] as number);
  return turned;
}
