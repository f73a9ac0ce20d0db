// Assign the maps of a set to a material of the renderer.
import type * as THREE from "three";
import type { Textures } from "./textures";

/** Assign the maps; `bent`: the geometry has tangents for normal maps. */
export function assignMaps(material: THREE.MeshStandardMaterial, textures: Textures, bent = true) {
  const before = mapUseOf(material);
  material.map = textures.base_color ?? null;
  material.normalMap = bent ? (textures.normal ?? null) : null;
  material.roughnessMap = textures.roughness ?? null;
  material.roughness = textures.roughness ? 1 : 0.5;
  material.metalnessMap = textures.metallic ?? null;
  material.metalness = textures.metallic ? 1 : 0;
  material.aoMap = textures.ambient_occlusion ?? null;
  material.alphaMap = textures.opacity ?? null;
  material.alphaTest = textures.opacity ? 0.5 : 0;
  material.emissiveMap = textures.emissive ?? null;
  material.emissive.setScalar(textures.emissive ? 1 : 0);
  if (before !== mapUseOf(material)) material.needsUpdate = true;
}

/** Which maps and which side a material uses; a change requires another shader. */
export function mapUseOf(material: THREE.MeshStandardMaterial): string {
  const { map, normalMap, roughnessMap, metalnessMap, aoMap, alphaMap, emissiveMap } = material;
  const maps = [map, normalMap, roughnessMap, metalnessMap, aoMap, alphaMap, emissiveMap];
  return [...maps, material.displacementMap].map(Boolean).join() + material.side;
}
