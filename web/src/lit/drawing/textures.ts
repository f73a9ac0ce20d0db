// Textures of the maps, recreated only when their content key changes.
import * as THREE from "three";
import type { ByKind, MapKind } from "@/api/client";
import { drawsInSoftware } from "../renderer";
import { type Keys, lightMaps, type MapCodes } from "./messages";

const colored = new Set<MapKind>(["base_color", "emissive"]);

export type Textures = ByKind<THREE.Texture>;

/** Content keys displayed by a frame that uses these textures. */
export function keysOfTextures(textures: Textures): Keys {
  return Object.fromEntries(Object.entries(textures).map(([kind, one]) => [kind, one.name]));
}

function makeTexture(kind: MapKind, codes: MapCodes): THREE.Texture {
  const texture = new THREE.DataTexture(
    new Uint8Array(codes.rgba.buffer),
    codes.width,
    codes.height,
    THREE.RGBAFormat,
  );
  texture.name = codes.key;
  texture.flipY = true; // WebGL textures start at the bottom row
  texture.colorSpace = colored.has(kind) ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.wrapS = THREE.RepeatWrapping;
  texture.wrapT = THREE.RepeatWrapping;
  // Pixel art isn't interpolated.
  const small = Math.max(codes.width, codes.height) <= 128;
  texture.magFilter = small ? THREE.NearestFilter : THREE.LinearFilter;
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.generateMipmaps = true;
  texture.anisotropy = drawsInSoftware() ? 1 : 4;
  texture.needsUpdate = true;
  return texture;
}

/** Textures of the displayed maps; unused ones are disposed of. */
export class TextureStore {
  private held: Textures = {};

  /** `fresh` are new codes; the others were sent with earlier views. */
  show(keys: Keys, fresh: MapCodes[]): Textures {
    const made: Textures = {};
    for (const kind of lightMaps) {
      const old = this.held[kind];
      if (!keys[kind]) continue;
      if (old?.name === keys[kind]) made[kind] = old;
      else {
        const codes = fresh.find((one) => one.key === keys[kind]);
        if (codes) made[kind] = makeTexture(kind, codes);
      }
    }
    if (lightMaps.every((kind) => made[kind] === this.held[kind])) return this.held;
    const kept = new Set(Object.values(made));
    for (const old of Object.values(this.held)) if (!kept.has(old)) old.dispose();
    this.held = made;
    return made;
  }

  dispose() {
    for (const texture of Object.values(this.held)) texture.dispose();
    this.held = {};
  }
}
