// Light positions on the hemisphere over a surface, drawn as a disk seen from above.
import type { CapturesSpec } from "@/api/client";

export interface Towards {
  /** Azimuth in degrees counterclockwise from the right. */
  azimuth: number;
  /** Elevation in degrees above the surface. */
  elevation: number;
}

/** Lowest elevation in degrees; a light at 0° illuminates nothing. */
export const LOWEST = 2;

/** A position on the disk, from -1 to 1, x to the right and y down. */
export function placeOf({ azimuth, elevation }: Towards): [number, number] {
  const turn = (azimuth * Math.PI) / 180;
  const out = Math.cos((elevation * Math.PI) / 180);
  return [Math.cos(turn) * out, -Math.sin(turn) * out];
}

/** The light at a position on the disk; outside, the lowest elevation. */
export function towardsOf([x, y]: [number, number]): Towards {
  const out = Math.min(Math.hypot(x, y), Math.cos((LOWEST * Math.PI) / 180));
  const azimuth = (Math.atan2(-y, x) * 180) / Math.PI;
  return withAngles(azimuth, (Math.acos(out) * 180) / Math.PI);
}

/** Round to tenths of a degree and clamp. */
export function withAngles(azimuth: number, elevation: number): Towards {
  const turned = Math.round((((azimuth % 360) + 360) % 360) * 10) / 10;
  return {
    azimuth: turned === 360 ? 0 : turned,
    elevation: Math.min(90, Math.max(LOWEST, Math.round(elevation * 10) / 10)),
  };
}

/** Distance of a light as text: "far away", "2.1 widths away". */
export function distanceText(distance: number | null | undefined): string {
  return distance ? `distance ${distance.toFixed(1)} widths` : "distant";
}

const SIDES = ["right", "upper right", "top", "upper left", "left", "lower left", "bottom"];

/** Direction as text: "from the upper left, 48° up". */
export function inWords({ azimuth, elevation }: Towards): string {
  if (elevation > 80) return `from above, elevation ${Math.round(elevation)}°`;
  const side = [...SIDES, "lower right"][Math.round(azimuth / 45) % 8];
  return `from the ${side} (azimuth ${Math.round(azimuth)}°), elevation ${Math.round(elevation)}°`;
}

/** Result of the light estimation. */
export function allRemarks(captures: CapturesSpec): string[] {
  return [...(captures.remarks ?? []), ...(captures.light_remarks ?? [])];
}
