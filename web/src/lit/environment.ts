// A neutral surrounding of our own: a pale sky above, a darker floor, two soft windows.
import * as THREE from "three";

function panel(
  width: number,
  height: number,
  light: number,
  at: [number, number, number],
): THREE.Mesh {
  const material = new THREE.MeshBasicMaterial({
    color: new THREE.Color(light, light, light),
    side: THREE.DoubleSide,
  });
  const mesh = new THREE.Mesh(new THREE.PlaneGeometry(width, height), material);
  mesh.position.set(...at);
  mesh.lookAt(0, 0, 0);
  return mesh;
}

function room(): THREE.Scene {
  const scene = new THREE.Scene();
  const sky = new THREE.SphereGeometry(20, 32, 16);
  const heights = sky.attributes.position;
  const colors = new Float32Array((heights?.count ?? 0) * 3);
  for (let i = 0; i < colors.length / 3; i++) {
    const up = (heights?.getY(i) ?? 0) / 20;
    const light = up > 0 ? 0.34 + 0.5 * up : 0.34 + 0.24 * up;
    colors.fill(light, i * 3, i * 3 + 3);
  }
  sky.setAttribute("color", new THREE.BufferAttribute(colors, 3));
  scene.add(
    new THREE.Mesh(sky, new THREE.MeshBasicMaterial({ vertexColors: true, side: THREE.BackSide })),
  );
  scene.add(
    panel(7, 9, 3.2, [-9, 7, 5]),
    panel(5, 5, 1.6, [10, 4, 3]),
    panel(14, 2, 1.2, [0, 9, -8]),
  );
  return scene;
}

/** The surrounding filtered for every roughness, ready to be a scene's environment. */
export function makeEnvironment(renderer: THREE.WebGLRenderer): THREE.Texture {
  const generator = new THREE.PMREMGenerator(renderer);
  const target = generator.fromScene(room(), 0.02);
  generator.dispose();
  return target.texture;
}
