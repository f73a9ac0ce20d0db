// What the page and the drawing tell each other, whether it draws in a worker or in the page.
import type { MapKind, SurfaceSpec } from "@/api/client";
import type { Shape, Surrounding } from "../choices";
import type { Light } from "../lamp";

/** Codes of one map, row 0 at the top; told once for each content key. */
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
  shape: Shape;
  aspect: number;
  repeat: number;
  displaced: boolean;
  surface: SurfaceSpec;
  light: Light;
  around: Surrounding;
  maps: Keys;
  /** Where the eye is, in the scene's units; it looks at the middle. */
  eye: [number, number, number];
  width: number;
  height: number;
  /** Texels for each unit of width and height. */
  density: number;
}

export type ToDrawing =
  | { kind: "begin"; canvas: OffscreenCanvas }
  | { kind: "show"; fresh: MapCodes[]; view: View };

/** A frame is done: the view of that number, with these maps. */
export interface FromDrawing {
  kind: "drawn";
  number: number;
  keys: string;
}

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
