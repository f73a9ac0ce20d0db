// Cache of prefiltered environments in the browser. Without a GPU, filtering takes more than half
// of the time to open a lit view.
import { clear, createStore, get, keys, set } from "idb-keyval";
import * as THREE from "three";

/** A prefiltered cube map: levels from sharp to rough, each with six faces of RGBA half floats. */
export interface FilteredCube {
  width: number;
  levels: { width: number; faces: Uint16Array<ArrayBuffer>[] }[];
}

const MOST = 24; // each is 0.25 MB
const store = () => createStore("sieve-light", "filtered");

/** Return the cache key of an environment's bytes, or null if the browser can't hash. */
export async function keyOfLight(bytes: ArrayBuffer, size: number): Promise<string | null> {
  if (typeof indexedDB === "undefined" || !globalThis.crypto?.subtle) return null;
  const hash = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes));
  const hex = Array.from(hash, (one) => one.toString(16).padStart(2, "0")).join("");
  return `${THREE.REVISION} ${size} ${hex}`;
}

/** Return a cached cube; null if it is missing or the browser has no storage. */
export async function keptLight(key: string): Promise<FilteredCube | null> {
  try {
    return (await get<FilteredCube>(key, store())) ?? null;
  } catch {
    return null;
  }
}

/** Cache a cube. At the limit, all earlier ones are deleted and filtered again when needed. */
export async function keepLight(key: string, cube: FilteredCube): Promise<void> {
  try {
    const place = store();
    if ((await keys(place)).length >= MOST) await clear(place);
    await set(key, cube, place);
  } catch {
    // Without storage, it is filtered again next time.
  }
}

/** Read the texels of a filtered render target. */
export function cubeOf(
  renderer: THREE.WebGLRenderer,
  target: THREE.WebGLCubeRenderTarget,
): FilteredCube {
  const gl = renderer.getContext() as WebGL2RenderingContext;
  const before = renderer.getRenderTarget();
  const levels = (target.texture.mipmaps as { width: number }[]).map(({ width }, level) => ({
    width,
    faces: Array.from({ length: 6 }, (_, face) => {
      const texels = new Uint16Array(4 * width * width);
      renderer.setRenderTarget(target, face, level);
      gl.readPixels(0, 0, width, width, gl.RGBA, gl.HALF_FLOAT, texels);
      return texels;
    }),
  }));
  renderer.setRenderTarget(before);
  return { width: target.width, levels };
}

/** Return a cached cube as an environment texture. */
export function textureOf(cube: FilteredCube): THREE.Texture {
  const faces = Array.from({ length: 6 }, (_, face) => ({
    width: cube.width,
    height: cube.width,
    mipmaps: cube.levels.map(({ width, faces }) => ({
      data: faces[face] as Uint16Array<ArrayBuffer>,
      width,
      height: width,
    })),
  }));
  // The only cube texture type that accepts prefiltered mip levels, compressed or not.
  const texture = new THREE.CompressedCubeTexture(
    faces as unknown as THREE.CompressedTextureMipmap[],
    THREE.RGBAFormat as unknown as THREE.CompressedPixelFormat,
    THREE.HalfFloatType,
  );
  texture.colorSpace = THREE.LinearSRGBColorSpace;
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.magFilter = THREE.LinearFilter;
  // Prefiltered, in the orientation of a render target.
  texture.isPMREMTexture = true;
  texture.isRenderTargetTexture = true;
  texture.needsUpdate = true;
  return texture;
}
