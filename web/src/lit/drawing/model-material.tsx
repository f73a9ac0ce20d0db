// A model with the set of each of its materials, and a marker at the pointer's position on the map.
import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { assignMaps, mapUseOf } from "./assign-maps";
import type { FromDrawing, MeshData, View } from "./messages";
import { type ModelBody, modelBody } from "./model";
import { useFrameReport } from "./report-frame";
import { tessellated } from "./tessellate";
import type { Textures } from "./textures";

interface Props {
  view: View;
  mesh: MeshData;
  textures: Textures;
  /** Maps of the model's other materials by name. */
  others: Record<string, Textures>;
  tell: (message: FromDrawing) => void;
}

/** Placeholder material of a part without a set: neutral. */
const PLAIN = 0x9a958e;

export function ModelMaterial({ view, mesh, textures, others, tell }: Props) {
  const { number, model } = view;
  const { invalidate } = useThree();
  useFrameReport(view, textures, tell);
  const { displaced } = view;
  const body = useMemo(() => standing(mesh, displaced), [mesh, displaced]);
  useEffect(() => () => body.geometry.dispose(), [body]);
  const materials = useMemo(() => body.materials.map(() => movable()), [body]);
  useEffect(
    () => () => {
      for (const one of materials) one.dispose();
    },
    [materials],
  );
  const own = model?.material ?? null;
  const depth = view.surface.depth ?? 0;
  useEffect(() => {
    for (const [n, material] of materials.entries()) {
      const name = body.materials[n] as string;
      const worn = own === null || name === own ? textures : others[name];
      for (const texture of Object.values(worn ?? {})) {
        texture.repeat.set(1, 1);
        texture.offset.set(0, 0);
        texture.updateMatrix();
      }
      const before = mapUseOf(material);
      assignMaps(material, worn ?? {}, mesh.head.uv_sets > 0);
      // The depth of the other sets isn't known here.
      const moved = displaced && worn === textures;
      material.displacementMap = moved ? (textures.height ?? null) : null;
      material.displacementScale = depth; // meters, like the model's positions
      material.displacementBias = -depth / 2;
      if (before !== mapUseOf(material)) material.needsUpdate = true;
      material.color.set(worn?.base_color ? 0xffffff : PLAIN);
      // Open models are visible from both sides.
      material.side = THREE.DoubleSide;
    }
    invalidate();
  }, [materials, body, textures, others, own, mesh, displaced, depth, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every view is rendered and reported
  useEffect(() => invalidate(), [number, invalidate]);
  const { scale, middle } = body;
  const place: [number, number, number] = [-middle.x * scale, -middle.y * scale, -middle.z * scale];
  return (
    <group scale={scale} position={place}>
      <mesh geometry={body.geometry} material={materials} castShadow receiveShadow />
      {model?.mark && <Mark at={model.mark} radius={0.022 / scale} />}
    </group>
  );
}

/** The model's geometry, subdivided if displacement needs it. */
function standing(mesh: MeshData, displaced: boolean): ModelBody {
  if (!displaced) return modelBody(mesh);
  const { mesh: fine, away } = tessellated(mesh);
  const body = modelBody(fine);
  body.geometry.setAttribute("away", new THREE.BufferAttribute(away, 3));
  return body;
}

/** A material that displaces vertices along `away`, so that hard edges stay closed. */
function movable(): THREE.MeshStandardMaterial {
  const material = new THREE.MeshStandardMaterial();
  material.onBeforeCompile = (shader) => {
    const whether = (code: string) => `#ifdef USE_DISPLACEMENTMAP\n${code}\n#endif`;
    const height = "texture2D(displacementMap, vDisplacementMapUv).x";
    const moved = `transformed += normalize(away) * (${height} * displacementScale + displacementBias);`;
    shader.vertexShader = shader.vertexShader
      .replace(
        "#include <displacementmap_pars_vertex>",
        `#include <displacementmap_pars_vertex>\n${whether("attribute vec3 away;")}`,
      )
      .replace("#include <displacementmap_vertex>", whether(moved));
  };
  return material;
}

/** A marker that is drawn over everything. */
function Mark({ at, radius }: { at: [number, number, number]; radius: number }) {
  return (
    <mesh position={at} renderOrder={1}>
      <sphereGeometry args={[radius, 16, 12]} />
      <meshBasicMaterial color="#f4e6c8" depthTest={false} transparent opacity={0.9} />
    </mesh>
  );
}
