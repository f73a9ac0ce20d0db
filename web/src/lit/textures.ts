// Textures from the pictures of the maps, made anew only when their content key changed.
import { useEffect, useRef, useState } from "react";
import * as THREE from "three";
import type { MapKind } from "@/api/client";
import type { Pictures, Shown } from "@/places/bench/shown";
import { drawsInSoftware } from "./renderer";

const used: MapKind[] = [
  "base_color",
  "normal",
  "roughness",
  "metallic",
  "ambient_occlusion",
  "opacity",
  "emissive",
  "height",
];
const colored = new Set<MapKind>(["base_color", "emissive"]);

export type Textures = Partial<Record<MapKind, THREE.Texture>>;

/** The content keys of the maps that the lit window shows, in one line. */
export function keysOf(pictures: Pictures): string {
  return used.map((kind) => pictures[kind]?.key ?? "").join(" ");
}

/** The same for textures: what a frame drawn with them shows. */
export function drawnKeys(textures: Textures): string {
  return used.map((kind) => textures[kind]?.name ?? "").join(" ");
}

function makeTexture(kind: MapKind, { key, codes }: Shown): THREE.Texture {
  const texture = new THREE.DataTexture(
    new Uint8Array(codes.data.buffer),
    codes.width,
    codes.height,
    THREE.RGBAFormat,
  );
  texture.name = key;
  texture.flipY = true; // WebGL reads rows from below
  texture.colorSpace = colored.has(kind) ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.wrapS = THREE.RepeatWrapping;
  texture.wrapT = THREE.RepeatWrapping;
  // Pixel art keeps its texels apart.
  const small = Math.max(codes.width, codes.height) <= 128;
  texture.magFilter = small ? THREE.NearestFilter : THREE.LinearFilter;
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.generateMipmaps = true;
  texture.anisotropy = drawsInSoftware() ? 1 : 4;
  texture.needsUpdate = true;
  return texture;
}

/** All maps change together, so that no frame mixes an old normal with a new occlusion. */
export function useTextures(pictures: Pictures): Textures {
  const [textures, setTextures] = useState<Textures>({});
  const held = useRef<Textures>({});
  useEffect(() => {
    const made: Textures = {};
    for (const kind of used) {
      const picture = pictures[kind];
      if (!picture) continue;
      const old = held.current[kind];
      made[kind] = old?.name === picture.key ? old : makeTexture(kind, picture);
    }
    const kept = new Set(Object.values(made));
    for (const old of Object.values(held.current)) if (!kept.has(old)) old.dispose();
    held.current = made;
    setTextures(made);
  }, [pictures]);
  useEffect(
    () => () => {
      for (const texture of Object.values(held.current)) texture.dispose();
      held.current = {};
    },
    [],
  );
  return textures;
}
