// Where lights are, seen from above: the dome over a surface drawn as a disc.
import type { ShotsSpec } from "@/api/client";

export interface Towards {
  /** Degrees from the right over the top. */
  around: number;
  /** Degrees above the surface. */
  up: number;
}

/** Degrees that no lamp is lower than: one in the surface lights nothing. */
export const LOWEST = 2;

/** A place on the disc, from -1 to 1, x to the right and y down. */
export function placeOf({ around, up }: Towards): [number, number] {
  const turn = (around * Math.PI) / 180;
  const out = Math.cos((up * Math.PI) / 180);
  return [Math.cos(turn) * out, -Math.sin(turn) * out];
}

/** The light that is drawn at a place; beyond the rim it is as low as can be. */
export function towardsOf([x, y]: [number, number]): Towards {
  const out = Math.min(Math.hypot(x, y), Math.cos((LOWEST * Math.PI) / 180));
  const around = (Math.atan2(-y, x) * 180) / Math.PI;
  return withAngles(around, (Math.acos(out) * 180) / Math.PI);
}

/** To tenths of a degree, within what there is. */
export function withAngles(around: number, up: number): Towards {
  const turned = Math.round((((around % 360) + 360) % 360) * 10) / 10;
  return {
    around: turned === 360 ? 0 : turned,
    up: Math.min(90, Math.max(LOWEST, Math.round(up * 10) / 10)),
  };
}

/** How far a lamp is: "far away", "2.1 widths away". */
export function awayInWords(distance: number | null | undefined): string {
  return distance ? `distance ${distance.toFixed(1)} widths` : "distant";
}

const SIDES = ["right", "upper right", "top", "upper left", "left", "lower left", "bottom"];

/** In words: "from the upper left, 48° up". */
export function inWords({ around, up }: Towards): string {
  if (up > 80) return `from above, elevation ${Math.round(up)}°`;
  const side = [...SIDES, "lower right"][Math.round(around / 45) % 8];
  return `from the ${side} (azimuth ${Math.round(around)}°), elevation ${Math.round(up)}°`;
}

/** Result of the light estimation. */
export function allRemarks(shots: ShotsSpec): string[] {
  return [...(shots.remarks ?? []), ...(shots.light_remarks ?? [])];
}
