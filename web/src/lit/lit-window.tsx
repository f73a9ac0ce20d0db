// The material under light. It shows the core's maps; nothing of them is computed here.
import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { SurfaceSpec } from "@/api/client";
import { Segmented } from "@/parts/segmented";
import type { Pictures } from "@/places/bench/use-preview";
import { makeEnvironment } from "./environment";
import { Lamp, type Light } from "./lamp";
import { geometryOf, type Shape, shapes } from "./shapes";
import { drawnKeys, keysOf, type Textures, useTextures } from "./textures";

const repeats = [
  { value: "1", label: "×1" },
  { value: "2", label: "×2" },
  { value: "4", label: "×4" },
] as const;

interface Props {
  pictures: Pictures;
  surface: SurfaceSpec;
  aspect: number;
}

export default function LitWindow({ pictures, surface, aspect }: Props) {
  const textures = useTextures(pictures);
  const frame = useRef<HTMLElement>(null);
  const [shape, setShape] = useState<Shape>(surface.wrap ? "sphere" : "plane");
  const [repeat, setRepeat] = useState<(typeof repeats)[number]["value"]>("1");
  const [light, setLight] = useState<Light>({ around: 128, up: 42 });
  return (
    <section
      ref={frame}
      aria-label="Lit window"
      data-testid="lit"
      data-wanted={keysOf(pictures)}
      className="relative size-full overflow-hidden rounded-sm bg-ground"
    >
      <Canvas
        frameloop="demand"
        dpr={[1, 2]}
        camera={{ fov: 30, position: [0, 0, 4.6], near: 0.1, far: 50 }}
        gl={{ antialias: true, preserveDrawingBuffer: true, toneMapping: THREE.NeutralToneMapping }}
        aria-label={`Material on a ${shape}`}
      >
        <color attach="background" args={["#777777"]} />
        <Surrounding />
        <Turning shape={shape} />
        <Sun light={light} />
        <Material
          shape={shape}
          aspect={aspect}
          repeat={Number(repeat)}
          textures={textures}
          onDrawn={(keys) => frame.current?.setAttribute("data-drawn", keys)}
        />
      </Canvas>
      <div className="absolute left-2.5 top-2.5">
        <Segmented label="Shape" value={shape} options={shapes} onChange={setShape} />
      </div>
      <div className="absolute right-2.5 top-2.5">
        <Segmented label="Repeat" value={repeat} options={repeats} onChange={setRepeat} />
      </div>
      <output className="absolute bottom-2.5 left-2.5 rounded-sm bg-ink/85 px-2 py-0.5 text-sheet figures">
        lamp {light.around}° · {light.up}° up
      </output>
      <Lamp light={light} onTurn={setLight} />
    </section>
  );
}

function Surrounding() {
  const { gl, scene, invalidate } = useThree();
  useEffect(() => {
    const texture = makeEnvironment(gl);
    scene.environment = texture;
    scene.environmentIntensity = 0.55;
    invalidate();
    return () => {
      scene.environment = null;
      texture.dispose();
    };
  }, [gl, scene, invalidate]);
  return null;
}

function Turning({ shape }: { shape: Shape }) {
  const { camera, gl, invalidate } = useThree();
  useEffect(() => {
    const controls = new OrbitControls(camera, gl.domElement);
    controls.enablePan = false;
    controls.minDistance = 2;
    controls.maxDistance = 9;
    controls.addEventListener("change", () => invalidate());
    return () => controls.dispose();
  }, [camera, gl, invalidate]);
  useEffect(() => {
    const tilted = shape === "cube" || shape === "cylinder";
    camera.position.set(tilted ? 2.2 : 0, tilted ? 1.7 : 0, tilted ? 3.8 : 4.6);
    camera.lookAt(0, 0, 0);
    invalidate();
  }, [shape, camera, invalidate]);
  return null;
}

function Sun({ light }: { light: Light }) {
  const { invalidate } = useThree();
  const around = (light.around * Math.PI) / 180;
  const up = (light.up * Math.PI) / 180;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a turned lamp needs a new frame
  useEffect(() => invalidate(), [around, up, invalidate]);
  return (
    <directionalLight
      intensity={2.6}
      position={[
        6 * Math.cos(up) * Math.cos(around),
        6 * Math.cos(up) * Math.sin(around),
        6 * Math.sin(up),
      ]}
    />
  );
}

interface MaterialProps {
  shape: Shape;
  aspect: number;
  repeat: number;
  textures: Textures;
  /** Told after each frame which maps it shows, by their content keys. */
  onDrawn: (keys: string) => void;
}

function Material({ shape, aspect, repeat, textures, onDrawn }: MaterialProps) {
  useFrame(() => {
    const keys = drawnKeys(textures);
    requestAnimationFrame(() => onDrawn(keys));
  });
  const { invalidate } = useThree();
  const { geometry, around } = useMemo(() => geometryOf(shape, aspect), [shape, aspect]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const material = useMemo(() => new THREE.MeshStandardMaterial(), []);
  useEffect(() => {
    for (const texture of Object.values(textures)) {
      texture.repeat.set(around[0] * repeat, around[1] * repeat);
      // On round shapes the middle of a tile faces the eye, not a border.
      const centered = shape === "sphere" || shape === "cylinder" ? 0.5 : 0;
      texture.offset.set(centered, shape === "sphere" ? 0.5 : 0);
      texture.updateMatrix();
    }
    const had = [material.map, material.normalMap, material.alphaMap, material.emissiveMap].map(
      Boolean,
    );
    material.map = textures.base_color ?? null;
    material.normalMap = textures.normal ?? null;
    material.roughnessMap = textures.roughness ?? null;
    material.roughness = textures.roughness ? 1 : 0.5;
    material.metalnessMap = textures.metallic ?? null;
    material.metalness = textures.metallic ? 1 : 0;
    material.aoMap = textures.ambient_occlusion ?? null;
    material.alphaMap = textures.opacity ?? null;
    material.alphaTest = textures.opacity ? 0.5 : 0;
    material.side = textures.opacity ? THREE.DoubleSide : THREE.FrontSide;
    material.emissiveMap = textures.emissive ?? null;
    material.emissive.setScalar(textures.emissive ? 1 : 0);
    const has = [material.map, material.normalMap, material.alphaMap, material.emissiveMap].map(
      Boolean,
    );
    if (had.join() !== has.join()) material.needsUpdate = true;
    invalidate();
    performance.mark("sieve:lit");
  }, [material, textures, around, repeat, shape, invalidate]);
  return <mesh geometry={geometry} material={material} />;
}
