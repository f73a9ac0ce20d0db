// The shapes a material is shown on. All have their texture upright and unstretched.
import * as THREE from "three";

export const shapes = [
  { value: "sphere", label: "Sphere" },
  { value: "plane", label: "Plane" },
  { value: "cube", label: "Cube" },
  { value: "cylinder", label: "Cylinder" },
] as const;

export type Shape = (typeof shapes)[number]["value"];

/** The geometry of a shape and how often the texture repeats around it at repeat 1. */
export function geometryOf(
  shape: Shape,
  aspect: number,
): { geometry: THREE.BufferGeometry; around: [number, number] } {
  const height = 1 / aspect;
  switch (shape) {
    case "plane": {
      const most = Math.max(1, height);
      return { geometry: new THREE.PlaneGeometry(2 / most, (2 * height) / most), around: [1, 1] };
    }
    case "cube":
      return { geometry: new THREE.BoxGeometry(1.25, 1.25, 1.25), around: [1, aspect] };
    case "cylinder":
      return {
        geometry: new THREE.CylinderGeometry(0.72, 0.72, 1.7, 96, 1),
        around: [3, 1.125 * aspect],
      };
    default:
      return { geometry: new THREE.SphereGeometry(1, 96, 64), around: [4, 2 * aspect] };
  }
}
