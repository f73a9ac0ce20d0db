// After each frame the page is told which maps it shows, by their content keys.
import { useFrame } from "@react-three/fiber";
import { type FromDrawing, lineOf, type View } from "./messages";
import { keysOfTextures, type Textures } from "./textures";

export function useDrawnTelling(
  { number, around }: View,
  textures: Textures,
  tell: (message: FromDrawing) => void,
) {
  useFrame(({ scene }) => {
    // The surrounding is still to come, and a frame with it.
    if (!scene.environment || scene.environment.name !== around.address) return;
    const keys = lineOf(keysOfTextures(textures));
    requestAnimationFrame(() => tell({ kind: "drawn", number, keys }));
  });
}
