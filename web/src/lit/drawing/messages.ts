// Messages between the page and the renderer, which runs in a worker or on the page.
import type { MapKind, Schemas, SurfaceSpec } from "@/api/client";
import type { EnvironmentView, Standing } from "../choices";
import type { Light } from "../lamp";

/** Texels of one map, row 0 at the top; sent once for each content key. */
export interface MapCodes {
  key: string;
  width: number;
  height: number;
  rgba: Uint8ClampedArray;
}

export type Keys = Partial<Record<MapKind, string>>;

/** All that a frame shows, as plain data. */
export interface View {
  /** Counts up. */
  number: number;
  shape: Standing;
  aspect: number;
  repeat: number;
  displaced: boolean;
  surface: SurfaceSpec;
  light: Light;
  around: EnvironmentView;
  maps: Keys;
  /** What the maps lie on, where that is a model of the user's. */
  model: ModelInView | null;
  /** Where the eye is, in the scene's units; it looks at the middle. */
  eye: [number, number, number];
  width: number;
  height: number;
  /** Texels for each unit of width and height. */
  density: number;
}

/** A model as the server laid it out to be drawn; see the API's description of a mesh. */
export interface MeshData {
  /** Identifies it among all others. */
  key: string;
  head: Schemas["MeshRead"];
  positions: Float32Array<ArrayBuffer>;
  normals: Float32Array<ArrayBuffer>;
  /** Rows go down. */
  uvs: Float32Array<ArrayBuffer>;
  tangents: Float32Array<ArrayBuffer>;
  /** Along the borders of islands: u, v to u, v. */
  borders: Float32Array<ArrayBuffer>;
  corners: Uint32Array<ArrayBuffer>;
}

/** Which model, and what its materials wear. */
export interface ModelInView {
  key: string;
  /** The material that the maps of the view are for; null: all of them. */
  material: string | null;
  /** The maps of the other materials' sets. */
  others: Record<string, Keys>;
  /** A point in the model's metres that is marked. */
  mark: [number, number, number] | null;
}

export type ToDrawing =
  | { kind: "begin"; canvas: OffscreenCanvas }
  | { kind: "mesh"; mesh: MeshData }
  | { kind: "picture"; width: number; height: number }
  | { kind: "show"; fresh: MapCodes[]; view: View };

/** A frame is done: the view of that number, with these maps; or a picture that was asked for. */
export type FromDrawing =
  | { kind: "drawn"; number: number; keys: string }
  | { kind: "picture"; picture: Blob | null };

export const lightMaps: MapKind[] = [
  "base_color",
  "normal",
  "roughness",
  "metallic",
  "ambient_occlusion",
  "opacity",
  "emissive",
  "height",
];

/** The content keys of the maps that a view shows, in one line. */
export function lineOf(keys: Keys): string {
  return lightMaps.map((kind) => keys[kind] ?? "").join(" ");
}
