// Environments: three built-in ones, included as files, and those of the project.
import * as THREE from "three";
import { HDRLoader } from "three/examples/jsm/loaders/HDRLoader.js";
import { drawsInSoftware } from "../renderer";
import { cubeOf, keepLight, keptLight, keyOfLight, textureOf } from "./environment-cache";

const SMALL = 64;

/**
 * The panoramas have 64 texels per quarter turn, but the library filters at least 256, which takes
 * six seconds without a GPU. If a later version renames this method, the override has no effect.
 */
class SmallGenerator extends THREE.PMREMGenerator {
  _cubeSize = 0;

  _setSize() {
    this._cubeSize = SMALL;
  }
}

/** An environment prefiltered for each roughness level, for use as a scene's environment. */
export async function loadSurrounding(
  renderer: THREE.WebGLRenderer,
  address: string,
): Promise<THREE.Texture> {
  const bytes = (await new THREE.FileLoader()
    .setResponseType("arraybuffer")
    .loadAsync(address)) as ArrayBuffer;
  const texture = drawsInSoftware()
    ? await smallSurrounding(renderer, bytes)
    : filtered(new THREE.PMREMGenerator(renderer), bytes).texture;
  texture.name = address;
  return texture;
}

async function smallSurrounding(
  renderer: THREE.WebGLRenderer,
  bytes: ArrayBuffer,
): Promise<THREE.Texture> {
  const key = await keyOfLight(bytes, SMALL);
  const kept = key && (await keptLight(key));
  if (kept) return textureOf(kept);
  const target = filtered(new SmallGenerator(renderer), bytes);
  if (key) void keepLight(key, cubeOf(renderer, target));
  return target.texture;
}

function filtered(generator: THREE.PMREMGenerator, bytes: ArrayBuffer) {
  const picture = new HDRLoader().createDataTexture(bytes);
  picture.mapping = THREE.EquirectangularReflectionMapping;
  picture.needsUpdate = true;
  const target = generator.fromEquirectangular(picture) as THREE.WebGLCubeRenderTarget;
  picture.dispose();
  generator.dispose();
  return target;
}
