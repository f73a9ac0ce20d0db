// After each frame, report the content keys of the displayed maps.
import { useFrame } from "@react-three/fiber";
import { type FromDrawing, lineOf, type View } from "./messages";
import { keysOfTextures, type Textures } from "./textures";

export function useFrameReport(
  { number, around }: View,
  textures: Textures,
  tell: (message: FromDrawing) => void,
) {
  useFrame(({ scene }) => {
    // The environment is still loading; another frame follows.
    if (!scene.environment || scene.environment.name !== around.address) return;
    const keys = lineOf(keysOfTextures(textures));
    requestAnimationFrame(() => tell({ kind: "drawn", number, keys }));
  });
}
