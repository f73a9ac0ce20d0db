// Interpretation of the value under the pointer, in words.
import type { KindRead } from "@/api/client";

export type Texel = readonly [number, number, number];

const degrees = (radians: number) => (radians * 180) / Math.PI;

/** Tilt of a normal against the surface and the direction it leans to, 0° right, 90° up. */
export function slopeOf([r, g, b]: Texel): { tilt: number; toward: number } {
  const [x, y, z] = [(r / 255) * 2 - 1, (g / 255) * 2 - 1, (b / 255) * 2 - 1];
  const tilt = degrees(Math.atan2(Math.hypot(x, y), z));
  const toward = (degrees(Math.atan2(y, x)) + 360) % 360;
  return { tilt, toward };
}

/** Linear light of an 8-bit sRGB code. */
export function linear(code: number): number {
  const v = code / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
}

export function meaningOf(kind: KindRead, texel: Texel, depth: number): string {
  if (kind.meaning === "normal") {
    const { tilt, toward } = slopeOf(texel);
    return tilt < 0.5 ? "flat" : `slope ${tilt.toFixed(1)}° toward ${toward.toFixed(0)}°`;
  }
  if (kind.meaning === "color") {
    const light = 0.2126 * linear(texel[0]) + 0.7152 * linear(texel[1]) + 0.0722 * linear(texel[2]);
    return `reflectance ${(light * 100).toFixed(1)} %`;
  }
  const value = texel[0] / 255;
  if (kind.kind === "height") return `height ${(value * depth * 1000).toFixed(2)} mm`;
  if (kind.kind === "ambient_occlusion") return `${(value * 100).toFixed(0)} % unoccluded`;
  return value.toFixed(3);
}
