// Shapes that show a material, with upright and undistorted textures.
import * as THREE from "three";
import type { Shape } from "../choices";

export interface Body {
  geometry: THREE.BufferGeometry;
  /** Repetitions of the texture around the shape at repeat 1. */
  around: [number, number];
  /** Circumference (or width) of the shape in scene units. */
  length: number;
}

/** Create the geometry of a shape; `fine` has enough vertices for displacement. */
export function bodyOf(shape: Shape, aspect: number, fine: boolean): Body {
  const height = 1 / aspect;
  const n = fine ? 256 : 1;
  switch (shape) {
    case "plane": {
      const most = Math.max(1, height);
      const [w, h] = [2 / most, (2 * height) / most];
      return { geometry: new THREE.PlaneGeometry(w, h, n, n), around: [1, 1], length: w };
    }
    case "cube": {
      const side = 1.25;
      const m = fine ? 96 : 1;
      const geometry = new THREE.BoxGeometry(side, side, side, m, m, m);
      return { geometry, around: [1, aspect], length: side };
    }
    case "cylinder": {
      const geometry = new THREE.CylinderGeometry(0.72, 0.72, 1.7, fine ? 384 : 96, n, fine);
      return { geometry, around: [3, 1.125 * aspect], length: 2 * Math.PI * 0.72 };
    }
    case "drape":
      return { geometry: drape(fine ? 320 : 120), around: [2, 2 * aspect], length: 2.3 };
    default: {
      const geometry = new THREE.SphereGeometry(1, fine ? 384 : 96, fine ? 192 : 64);
      return { geometry, around: [4, 2 * aspect], length: 2 * Math.PI };
    }
  }
}

/** A hanging cloth: gathered at the top, with folds that become deeper towards the bottom. */
function drape(steps: number): THREE.BufferGeometry {
  const geometry = new THREE.PlaneGeometry(2.3, 2.3, steps, steps);
  const points = geometry.attributes.position as THREE.BufferAttribute;
  for (let i = 0; i < points.count; i++) {
    const x = points.getX(i);
    const down = (1.15 - points.getY(i)) / 2.3;
    const wander = 0.35 * Math.sin(2.1 * down + 0.6);
    const fold = Math.sin(5.2 * (x + wander)) + 0.45 * Math.sin(9.7 * x - 1.3 * down + 0.8);
    const depth = 0.05 + 0.13 * down ** 1.4;
    points.setZ(i, depth * fold - 0.12 * down * (1 - down));
    points.setX(i, x * (0.9 + 0.1 * down) + 0.05 * depth * Math.cos(5.2 * (x + wander)));
  }
  geometry.computeVertexNormals();
  return geometry;
}
