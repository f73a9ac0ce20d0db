// Messages between the page and the renderer, which runs in a worker or on the page.
import type { ByKind, MapKind, Schemas, SurfaceSpec } from "@/api/client";
import type { EnvironmentView, Standing } from "../choices";
import type { Light } from "../light-dial";

/** Texels of one map, row 0 at the top; sent once for each content key. */
export interface MapCodes {
  key: string;
  width: number;
  height: number;
  rgba: Uint8ClampedArray;
}

export type Keys = ByKind<string>;

/** Complete description of a frame, as plain data. */
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
  /** The model that shows the maps, if any. */
  model: ModelInView | null;
  /** Camera position in scene units; it looks at the origin. */
  eye: [number, number, number];
  width: number;
  height: number;
  /** Device pixels per unit of width and height. */
  density: number;
}

/** A model prepared for display; see the API's description of a mesh. */
export interface MeshData {
  /** Identifies it among all others. */
  key: string;
  head: Schemas["MeshRead"];
  positions: Float32Array<ArrayBuffer>;
  normals: Float32Array<ArrayBuffer>;
  /** v goes down. */
  uvs: Float32Array<ArrayBuffer>;
  tangents: Float32Array<ArrayBuffer>;
  /** Segments of the islands' outlines: u, v to u, v. */
  borders: Float32Array<ArrayBuffer>;
  corners: Uint32Array<ArrayBuffer>;
}

/** The model, and the maps of its other materials. */
export interface ModelInView {
  key: string;
  /** The material that shows the maps of the view; null: all. */
  material: string | null;
  /** The maps of the other materials' sets. */
  others: Record<string, Keys>;
  /** Position of a marker in the model's meters. */
  mark: [number, number, number] | null;
}

export type ToDrawing =
  | { kind: "begin"; canvas: OffscreenCanvas }
  | { kind: "mesh"; mesh: MeshData }
  | { kind: "picture"; width: number; height: number }
  | { kind: "show"; fresh: MapCodes[]; view: View };

/** A frame was rendered: number of the view and keys of its maps; or a requested picture. */
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

/** Content keys of the maps of a view, in one line. */
export function lineOf(keys: Keys): string {
  return lightMaps.map((kind) => keys[kind] ?? "").join(" ");
}
