// After each frame the page is told which maps it shows, by their content keys.
import { useFrame } from "@react-three/fiber";
import { type FromDrawing, lineOf } from "./messages";
import { keysOfTextures, type Textures } from "./textures";

export function useDrawnTelling(
  number: number,
  textures: Textures,
  tell: (message: FromDrawing) => void,
) {
  useFrame(({ scene }) => {
    if (!scene.environment) return; // the surrounding is still to come, and a frame with it
    const keys = lineOf(keysOfTextures(textures));
    requestAnimationFrame(() => tell({ kind: "drawn", number, keys }));
  });
}
