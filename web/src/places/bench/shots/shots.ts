// Pure changes of the captures of a measured set.
import type { ShotSpec, ShotsSpec } from "@/api/client";
import type { Towards } from "@/parts/lights";
import type { Change } from "../use-draft";

/** Replace properties of one capture. */
export function withShot(source: string, edit: (now: ShotSpec) => ShotSpec): Change {
  return (draft) => {
    if (!draft.shots) return draft;
    const shots = draft.shots.shots.map((one) => (one.source === source ? edit(one) : one));
    return { ...draft, shots: { ...draft.shots, shots } };
  };
}

/** Set the light direction by hand. */
export function lighting(source: string, to: Towards & Partial<ShotSpec["lamp"]>): Change {
  return withShot(source, (now) => ({ ...now, told: "hand", lamp: { ...now.lamp, ...to } }));
}

/** Measured from it or not; three are needed at least. */
export function using(source: string, used: boolean): Change {
  return withShot(source, (now) => ({ ...now, used }));
}

export function withShots(shots: ShotsSpec): Change {
  return (draft) => ({ ...draft, shots });
}

export const FEWEST = 3;

export function usedOf(shots: ShotsSpec): ShotSpec[] {
  return shots.shots.filter((one) => one.used);
}

const TOLD = {
  ball: "detected from the ball",
  fit: "refined",
  guess: "estimated from the pictures",
  hand: "set manually",
} as const;

export function toldBy(shot: ShotSpec): string {
  return TOLD[shot.told ?? "hand"];
}

/** In the order in which a lamp that is carried around comes to them. */
export function aroundThe(shots: ShotsSpec): ShotSpec[] {
  return [...shots.shots].sort((a, b) => a.lamp.around - b.lamp.around);
}
