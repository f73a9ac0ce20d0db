// What is drawn in a lit window: a material on a shape, a surrounding, a lamp, an eye that is moved.
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { SurfaceSpec } from "@/api/client";
import { loadSurrounding, type Surrounding, surroundingOf } from "./environment";
import type { Eye } from "./eye";
import { FrameTime } from "./frame-time";
import type { Light } from "./lamp";
import { Material } from "./material";
import { drawsInSoftware } from "./renderer";
import type { Shape } from "./shapes";
import type { Textures } from "./textures";

interface Props {
  shape: Shape;
  aspect: number;
  repeat: number;
  displaced: boolean;
  surface: SurfaceSpec;
  textures: Textures;
  light: Light;
  around: Surrounding;
  /** Several windows with one eye are turned together. */
  eye?: Eye;
  /** Told after each frame which maps it shows, by their content keys. */
  onDrawn: (keys: string) => void;
}

export function Stage({ light, around, eye, ...material }: Props) {
  const { shape } = material;
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 2]}
      camera={{ fov: 30, position: [0, 0, 4.6], near: 0.1, far: 50 }}
      gl={{
        antialias: !drawsInSoftware(),
        preserveDrawingBuffer: true,
        toneMapping: THREE.NeutralToneMapping,
      }}
      aria-label={`Material on a ${shape}`}
    >
      <color attach="background" args={[around === "dark" ? "#3c3c3c" : "#777777"]} />
      <Around name={around} />
      <FrameTime />
      <Turning shape={shape} eye={eye} />
      <Sun light={light} strength={surroundingOf(around).lamp} />
      <Material {...material} />
    </Canvas>
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

function Turning({ shape, eye }: { shape: Shape; eye: Eye | undefined }) {
  const { camera, gl, invalidate } = useThree();
  useEffect(() => {
    const controls = new OrbitControls(camera, gl.domElement);
    controls.enablePan = false;
    controls.minDistance = 2;
    controls.maxDistance = 9;
    const followed = eye?.join((position) => {
      camera.position.copy(position);
      camera.lookAt(0, 0, 0);
      invalidate();
    });
    controls.addEventListener("change", () => {
      followed?.moved(camera.position);
      invalidate();
    });
    return () => {
      followed?.leave();
      controls.dispose();
    };
  }, [camera, gl, invalidate, eye]);
  useEffect(() => {
    const tilted = shape === "cube" || shape === "cylinder";
    camera.position.set(tilted ? 2.2 : 0, tilted ? 1.7 : 0, tilted ? 3.8 : 4.6);
    if (shape === "drape") camera.position.set(1.1, 0.3, 4.7);
    camera.lookAt(0, 0, 0);
    invalidate();
  }, [shape, camera, invalidate]);
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
