// Scene of a lit view: a material on a shape, an environment, a light, an orbiting camera.
import { useThree } from "@react-three/fiber";
import { useEffect, useRef, useState } from "react";
import * as THREE from "three";
import type { EnvironmentView } from "../choices";
import type { Light } from "../light-dial";
import { drawsInSoftware } from "../renderer";
import { loadSurrounding } from "./environment";
import { Material } from "./material";
import type { FromDrawing, MeshData, View } from "./messages";
import { ModelMaterial } from "./model-material";
import type { Textures } from "./textures";

interface Props {
  view: View;
  /** The model of the view, once it has loaded. */
  mesh: MeshData | null;
  textures: Textures;
  others: Record<string, Textures>;
  tell: (message: FromDrawing) => void;
}

export function Scene({ view, mesh, textures, others, tell }: Props) {
  const { around, light, eye, shape } = view;
  // Nothing is rendered without an environment, because shaders would be compiled twice.
  const [lit, setLit] = useState(false);
  // Convex shapes don't cast shadows on themselves, so no shadow map is rendered.
  const folds = shape === "model" || shape === "drape" || view.displaced;
  return (
    <>
      <EnvironmentLight around={around} onLit={setLit} />
      <Seen from={eye} />
      <Sun light={light} strength={around.lamp} shadows={around.shadows && folds} />
      {!lit ? null : shape !== "model" ? (
        <Material view={view} shape={shape} textures={textures} tell={tell} />
      ) : (
        mesh && (
          <ModelMaterial view={view} mesh={mesh} textures={textures} others={others} tell={tell} />
        )
      )}
    </>
  );
}

/** Background of pictures, and of dark environments. */
const GREY = new THREE.Color("#777777");
const DIM = new THREE.Color("#3c3c3c");
/** Blurred so that the background doesn't distract from the material. */
const BLUR = 0.35;

/** The environment of a scene; the previous one remains until the next one has loaded. */
function EnvironmentLight({
  around,
  onLit,
}: {
  around: EnvironmentView;
  onLit: (lit: boolean) => void;
}) {
  const { gl, scene, invalidate } = useThree();
  const { address, sky, dim, turn, exposure, backdrop } = around;
  const [light, setLight] = useState<THREE.Texture | null>(null);
  useEffect(() => {
    let gone = false;
    void loadSurrounding(gl, address).then((texture) => {
      if (gone) return texture.dispose();
      setLight(texture);
      onLit(true);
    });
    return () => {
      gone = true;
    };
  }, [gl, address, onLit]);
  useEffect(() => () => light?.dispose(), [light]);
  useEffect(() => {
    const seen = backdrop === "seen" && light !== null;
    scene.environment = light;
    scene.environmentIntensity = sky;
    scene.environmentRotation.y = (turn * Math.PI) / 180;
    scene.background = seen ? light : dim ? DIM : GREY;
    scene.backgroundBlurriness = BLUR;
    scene.backgroundIntensity = sky;
    scene.backgroundRotation.y = scene.environmentRotation.y;
    gl.toneMappingExposure = 2 ** exposure;
    invalidate();
  }, [gl, scene, invalidate, light, sky, dim, turn, exposure, backdrop]);
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

/** Half the width of the light's shadow frustum, in scene units. */
const SHADED = 1.9;
const SHADOW_SIDE = drawsInSoftware() ? 1024 : 2048;

function Sun({ light, strength, shadows }: { light: Light; strength: number; shadows: boolean }) {
  const { gl, invalidate } = useThree();
  const lamp = useRef<THREE.DirectionalLight>(null);
  useEffect(() => {
    gl.shadowMap.enabled = true;
    gl.shadowMap.type = THREE.PCFShadowMap;
    const shadow = lamp.current?.shadow;
    if (!shadow) return;
    const { camera } = shadow;
    [camera.left, camera.right, camera.bottom, camera.top] = [-SHADED, SHADED, -SHADED, SHADED];
    [camera.near, camera.far] = [2, 10];
    camera.updateProjectionMatrix();
    shadow.mapSize.set(SHADOW_SIDE, SHADOW_SIDE);
    shadow.normalBias = 0.02;
  }, [gl]);
  const around = (light.azimuth * Math.PI) / 180;
  const up = (light.elevation * Math.PI) / 180;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a turned lamp needs a new frame
  useEffect(() => invalidate(), [around, up, strength, shadows, invalidate]);
  return (
    <directionalLight
      ref={lamp}
      castShadow={shadows}
      intensity={strength}
      position={[
        6 * Math.cos(up) * Math.cos(around),
        6 * Math.cos(up) * Math.sin(around),
        6 * Math.sin(up),
      ]}
    />
  );
}
