// What is drawn in a lit window: a material on a shape, a surrounding, a lamp, an eye that is moved.
import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import type * as THREE from "three";
import { type Surrounding, surroundingOf } from "../choices";
import type { Light } from "../lamp";
import { loadSurrounding } from "./environment";
import { Material } from "./material";
import type { FromDrawing, MeshData, View } from "./messages";
import { ModelMaterial } from "./model-material";
import type { Textures } from "./textures";

interface Props {
  view: View;
  /** The model that the view names, once it is there. */
  mesh: MeshData | null;
  textures: Textures;
  others: Record<string, Textures>;
  tell: (message: FromDrawing) => void;
}

export function Scene({ view, mesh, textures, others, tell }: Props) {
  const { around, light, eye, shape } = view;
  return (
    <>
      <color attach="background" args={[around === "dark" ? "#3c3c3c" : "#777777"]} />
      <Around name={around} />
      <Seen from={eye} />
      <Sun light={light} strength={surroundingOf(around).lamp} />
      {shape !== "model" ? (
        <Material view={view} shape={shape} textures={textures} tell={tell} />
      ) : (
        mesh && (
          <ModelMaterial view={view} mesh={mesh} textures={textures} others={others} tell={tell} />
        )
      )}
    </>
  );
}

function Around({ name }: { name: Surrounding }) {
  const { gl, scene, invalidate } = useThree();
  useEffect(() => {
    let gone = false;
    let made: THREE.Texture | null = null;
    void loadSurrounding(gl, name).then((texture) => {
      if (gone) return texture.dispose();
      made = texture;
      scene.environment = texture;
      scene.environmentIntensity = surroundingOf(name).sky;
      invalidate();
    });
    return () => {
      gone = true;
      if (scene.environment === made) scene.environment = null;
      made?.dispose();
    };
  }, [gl, scene, invalidate, name]);
  return null;
}

function Seen({ from: [x, y, z] }: { from: View["eye"] }) {
  const { camera, invalidate } = useThree();
  useEffect(() => {
    camera.position.set(x, y, z);
    camera.lookAt(0, 0, 0);
    invalidate();
  }, [camera, invalidate, x, y, z]);
  return null;
}

function Sun({ light, strength }: { light: Light; strength: number }) {
  const { invalidate } = useThree();
  const around = (light.around * Math.PI) / 180;
  const up = (light.up * Math.PI) / 180;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a turned lamp needs a new frame
  useEffect(() => invalidate(), [around, up, strength, invalidate]);
  return (
    <directionalLight
      intensity={strength}
      position={[
        6 * Math.cos(up) * Math.cos(around),
        6 * Math.cos(up) * Math.sin(around),
        6 * Math.sin(up),
      ]}
    />
  );
}
