// One material on one shape. It shows the core's maps; nothing of them is computed here.
import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { type FromDrawing, lineOf, type View } from "./messages";
import { bodyOf } from "./shapes";
import { keysOfTextures, type Textures } from "./textures";

interface Props {
  view: View;
  textures: Textures;
  /** Told after each frame which maps it shows, by their content keys. */
  tell: (message: FromDrawing) => void;
}

export function Material({ view, textures, tell }: Props) {
  const { number, shape, aspect, repeat, displaced } = view;
  const { tile_size } = view.surface;
  const depth = view.surface.depth ?? 0;
  const { invalidate } = useThree();
  useFrame(({ scene }) => {
    if (!scene.environment) return; // the surrounding is still to come, and a frame with it
    const keys = lineOf(keysOfTextures(textures));
    requestAnimationFrame(() => tell({ kind: "drawn", number, keys }));
  });
  const body = useMemo(() => bodyOf(shape, aspect, displaced), [shape, aspect, displaced]);
  useEffect(() => () => body.geometry.dispose(), [body]);
  const material = useMemo(() => new THREE.MeshStandardMaterial(), []);
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    const [across, down] = body.around;
    for (const texture of Object.values(textures)) {
      texture.repeat.set(across * repeat, down * repeat);
      // On round shapes the middle of a tile faces the eye, not a border.
      const centered = shape === "sphere" || shape === "cylinder" ? 0.5 : 0;
      texture.offset.set(centered, shape === "sphere" ? 0.5 : 0);
      texture.updateMatrix();
    }
    const before = mapsIn(material);
    material.map = textures.base_color ?? null;
    material.normalMap = textures.normal ?? null;
    material.roughnessMap = textures.roughness ?? null;
    material.roughness = textures.roughness ? 1 : 0.5;
    material.metalnessMap = textures.metallic ?? null;
    material.metalness = textures.metallic ? 1 : 0;
    material.aoMap = textures.ambient_occlusion ?? null;
    material.alphaMap = textures.opacity ?? null;
    material.alphaTest = textures.opacity ? 0.5 : 0;
    material.side = textures.opacity || shape === "drape" ? THREE.DoubleSide : THREE.FrontSide;
    material.emissiveMap = textures.emissive ?? null;
    material.emissive.setScalar(textures.emissive ? 1 : 0);
    material.displacementMap = displaced ? (textures.height ?? null) : null;
    // The relief keeps its proportion to the tile: metres of depth per metre of width.
    const tile = body.length / (across * repeat);
    material.displacementScale = (depth / tile_size) * tile;
    material.displacementBias = -material.displacementScale / 2;
    if (before !== mapsIn(material)) material.needsUpdate = true;
    invalidate();
  }, [material, textures, body, repeat, shape, displaced, depth, tile_size, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every view is drawn, and told
  useEffect(() => invalidate(), [number, invalidate]);
  return <mesh geometry={body.geometry} material={material} />;
}

/** Which maps a material has, and its side: another answer needs another shader. */
function mapsIn(material: THREE.MeshStandardMaterial): string {
  const { map, normalMap, roughnessMap, metalnessMap, aoMap, alphaMap, emissiveMap } = material;
  const maps = [map, normalMap, roughnessMap, metalnessMap, aoMap, alphaMap, emissiveMap];
  return [...maps, material.displacementMap].map(Boolean).join() + material.side;
}
