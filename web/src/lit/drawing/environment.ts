// The surroundings a material stands in: three of our own, shipped as files, and those of the project.
import * as THREE from "three";
import { HDRLoader } from "three/examples/jsm/loaders/HDRLoader.js";
import { drawsInSoftware } from "../renderer";

/**
 * The pictures have 64 texels a quarter turn, but three filters at least 256, for which a processor
 * takes six seconds. Should the name of this step change there, all still works, only slowly.
 */
class SmallGenerator extends THREE.PMREMGenerator {
  _cubeSize = 0;

  _setSize() {
    this._cubeSize = 64;
  }
}

/** A surrounding filtered for every roughness, ready to be a scene's environment. */
export async function loadSurrounding(
  renderer: THREE.WebGLRenderer,
  address: string,
): Promise<THREE.Texture> {
  const picture = await new HDRLoader().loadAsync(address);
  picture.mapping = THREE.EquirectangularReflectionMapping;
  const generator = drawsInSoftware()
    ? new SmallGenerator(renderer)
    : new THREE.PMREMGenerator(renderer);
  const target = generator.fromEquirectangular(picture);
  picture.dispose();
  generator.dispose();
  target.texture.name = address;
  return target.texture;
}
