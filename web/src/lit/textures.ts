// Textures from the pictures of the maps, made anew only when their content key changed.
import { useEffect, useRef, useState } from "react";
import * as THREE from "three";
import type { MapKind } from "@/api/client";
import type { Pictures, Shown } from "@/places/bench/use-preview";

const used: MapKind[] = [
  "base_color",
  "normal",
  "roughness",
  "metallic",
  "ambient_occlusion",
  "opacity",
  "emissive",
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

async function makeTexture(kind: MapKind, { key, bitmap }: Shown): Promise<THREE.Texture> {
  // WebGL reads rows from below; a flipped bitmap keeps green up without touching the shader.
  const texture = new THREE.Texture(await createImageBitmap(bitmap, { imageOrientation: "flipY" }));
  texture.name = key;
  texture.flipY = false;
  texture.colorSpace = colored.has(kind) ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.wrapS = THREE.RepeatWrapping;
  texture.wrapT = THREE.RepeatWrapping;
  texture.anisotropy = 4;
  texture.needsUpdate = true;
  return texture;
}

/** All maps change together, so that no frame mixes an old normal with a new occlusion. */
export function useTextures(pictures: Pictures): Textures {
  const [textures, setTextures] = useState<Textures>({});
  const held = useRef<Map<MapKind, { key: string; texture: THREE.Texture }>>(new Map());
  useEffect(() => {
    let stale = false;
    void (async () => {
      const made = new Map<MapKind, { key: string; texture: THREE.Texture }>();
      for (const kind of used) {
        const picture = pictures[kind];
        const old = held.current.get(kind);
        if (!picture) continue;
        const texture = old?.key === picture.key ? old.texture : await makeTexture(kind, picture);
        made.set(kind, { key: picture.key, texture });
      }
      const kept = new Set([...made.values()].map((one) => one.texture));
      const dropped = stale ? made : held.current;
      const saved = stale ? new Set([...held.current.values()].map((one) => one.texture)) : kept;
      if (!stale) {
        held.current = made;
        setTextures(Object.fromEntries([...made].map(([kind, one]) => [kind, one.texture])));
      }
      for (const { texture } of dropped.values()) if (!saved.has(texture)) texture.dispose();
    })();
    return () => {
      stale = true;
    };
  }, [pictures]);
  return textures;
}
