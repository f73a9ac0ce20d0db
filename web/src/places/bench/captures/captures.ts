// Pure changes of the captures of a measured set.
import type { CapturesSpec, ShotSpec } from "@/api/client";
import type { Towards } from "@/parts/lights";
import type { Change } from "../use-draft";

/** Replace properties of one capture. */
export function withShot(source: string, edit: (now: ShotSpec) => ShotSpec): Change {
  return (draft) => {
    if (!draft.captures) return draft;
    const captures = draft.captures.captures.map((one) =>
      one.source === source ? edit(one) : one,
    );
    return { ...draft, captures: { ...draft.captures, captures } };
  };
}

/** Set the light direction manually. */
export function lighting(source: string, to: Towards & Partial<ShotSpec["lamp"]>): Change {
  return withShot(source, (now) => ({
    ...now,
    light_origin: "manual",
    lamp: { ...now.lamp, ...to },
  }));
}

/** Measured from it or not; three are needed at least. */
export function using(source: string, used: boolean): Change {
  return withShot(source, (now) => ({ ...now, used }));
}

export function withShots(captures: CapturesSpec): Change {
  return (draft) => ({ ...draft, captures });
}

export const FEWEST = 3;

export function usedOf(captures: CapturesSpec): ShotSpec[] {
  return captures.captures.filter((one) => one.used);
}

const ORIGINS = {
  ball: "detected from the ball",
  refined: "refined",
  estimated: "estimated from the pictures",
  manual: "set manually",
} as const;

export function toldBy(shot: ShotSpec): string {
  return ORIGINS[shot.light_origin ?? "manual"];
}

/** In the order in which a lamp that is carried azimuth comes to them. */
export function aroundThe(captures: CapturesSpec): ShotSpec[] {
  return [...captures.captures].sort((a, b) => a.lamp.azimuth - b.lamp.azimuth);
}
