// A material on a built-in shape. Shows the maps of the core unchanged.
import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Shape } from "../choices";
import { assignMaps, mapUseOf } from "./assign-maps";
import type { FromDrawing, View } from "./messages";
import { useFrameReport } from "./report-frame";
import { bodyOf } from "./shapes";
import type { Textures } from "./textures";

interface Props {
  view: View;
  shape: Shape;
  textures: Textures;
  /** Called after each frame with the content keys of the displayed maps. */
  tell: (message: FromDrawing) => void;
}

export function Material({ view, shape, textures, tell }: Props) {
  const { number, aspect, repeat, displaced } = view;
  const { tile_size } = view.surface;
  const depth = view.surface.depth ?? 0;
  const { invalidate } = useThree();
  useFrameReport(view, textures, tell);
  const body = useMemo(() => bodyOf(shape, aspect, displaced), [shape, aspect, displaced]);
  useEffect(() => () => body.geometry.dispose(), [body]);
  const material = useMemo(() => new THREE.MeshStandardMaterial(), []);
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    const [across, down] = body.around;
    for (const texture of Object.values(textures)) {
      texture.repeat.set(across * repeat, down * repeat);
      // On round shapes, center a tile toward the camera instead of a border.
      const centered = shape === "sphere" || shape === "cylinder" ? 0.5 : 0;
      texture.offset.set(centered, shape === "sphere" ? 0.5 : 0);
      texture.updateMatrix();
    }
    const before = mapUseOf(material);
    assignMaps(material, textures);
    material.side = textures.opacity || shape === "drape" ? THREE.DoubleSide : THREE.FrontSide;
    material.displacementMap = displaced ? (textures.height ?? null) : null;
    // The relief keeps its proportion: meters of depth per meter of width.
    const tile = body.length / (across * repeat);
    material.displacementScale = (depth / tile_size) * tile;
    material.displacementBias = -material.displacementScale / 2;
    if (before !== mapUseOf(material)) material.needsUpdate = true;
    invalidate();
  }, [material, textures, body, repeat, shape, displaced, depth, tile_size, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every view is rendered and reported
  useEffect(() => invalidate(), [number, invalidate]);
  // Only the folded shape self-occludes; other shapes need no shadow map without displacement.
  const folds = shape === "drape" || displaced;
  return (
    <mesh geometry={body.geometry} material={material} castShadow={folds} receiveShadow={folds} />
  );
}
