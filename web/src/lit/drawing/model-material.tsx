// The user's model with the set of each of its materials; a mark where the hand is in the flat map.
import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { useDrawnTelling } from "./drawn-telling";
import { dress } from "./dress";
import type { FromDrawing, MeshData, View } from "./messages";
import { modelBody } from "./model";
import type { Textures } from "./textures";

interface Props {
  view: View;
  mesh: MeshData;
  textures: Textures;
  /** Of the model's other materials, by their names. */
  others: Record<string, Textures>;
  tell: (message: FromDrawing) => void;
}

/** What a material without a set is drawn with: it is there, and says nothing. */
const PLAIN = 0x9a958e;

export function ModelMaterial({ view, mesh, textures, others, tell }: Props) {
  const { number, model } = view;
  const { invalidate } = useThree();
  useDrawnTelling(view, textures, tell);
  const body = useMemo(() => modelBody(mesh), [mesh]);
  useEffect(() => () => body.geometry.dispose(), [body]);
  const materials = useMemo(
    () => body.materials.map(() => new THREE.MeshStandardMaterial()),
    [body],
  );
  useEffect(
    () => () => {
      for (const one of materials) one.dispose();
    },
    [materials],
  );
  const own = model?.material ?? null;
  useEffect(() => {
    for (const [n, material] of materials.entries()) {
      const name = body.materials[n] as string;
      const worn = own === null || name === own ? textures : others[name];
      for (const texture of Object.values(worn ?? {})) {
        texture.repeat.set(1, 1);
        texture.offset.set(0, 0);
        texture.updateMatrix();
      }
      dress(material, worn ?? {}, mesh.head.uv_sets > 0);
      material.color.set(worn?.base_color ? 0xffffff : PLAIN);
      // A closed model shows its outside alone; of an open one both sides are seen.
      material.side = THREE.DoubleSide;
    }
    invalidate();
  }, [materials, body, textures, others, own, mesh, invalidate]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every view is drawn, and told
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

/** A small ball that nothing hides. */
function Mark({ at, radius }: { at: [number, number, number]; radius: number }) {
  return (
    <mesh position={at} renderOrder={1}>
      <sphereGeometry args={[radius, 16, 12]} />
      <meshBasicMaterial color="#f4e6c8" depthTest={false} transparent opacity={0.9} />
    </mesh>
  );
}
