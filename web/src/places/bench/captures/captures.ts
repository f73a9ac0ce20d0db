// Pure changes of the captures of a measured set.
import type { CaptureSpec, CapturesSpec } from "@/api/client";
import type { Towards } from "@/parts/lights";
import type { Change } from "../use-draft";

/** Replace properties of one capture. */
export function withCapture(source: string, edit: (now: CaptureSpec) => CaptureSpec): Change {
  return (draft) => {
    if (!draft.captures) return draft;
    const captures = draft.captures.captures.map((one) =>
      one.source === source ? edit(one) : one,
    );
    return { ...draft, captures: { ...draft.captures, captures } };
  };
}

/** Set the light direction manually. */
export function lighting(source: string, to: Towards & Partial<CaptureSpec["lamp"]>): Change {
  return withCapture(source, (now) => ({
    ...now,
    light_origin: "manual",
    lamp: { ...now.lamp, ...to },
  }));
}

/** Measured from it or not; three are needed at least. */
export function using(source: string, used: boolean): Change {
  return withCapture(source, (now) => ({ ...now, used }));
}

export function withShots(captures: CapturesSpec): Change {
  return (draft) => ({ ...draft, captures });
}

export const FEWEST = 3;

export function usedOf(captures: CapturesSpec): CaptureSpec[] {
  return captures.captures.filter((one) => one.used);
}

const ORIGINS = {
  ball: "detected from the ball",
  refined: "refined",
  estimated: "estimated from the pictures",
  manual: "set manually",
} as const;

export function originOf(capture: CaptureSpec): string {
  return ORIGINS[capture.light_origin ?? "manual"];
}

/** In the order in which a lamp that is carried azimuth comes to them. */
export function capturesByAzimuth(captures: CapturesSpec): CaptureSpec[] {
  return [...captures.captures].sort((a, b) => a.lamp.azimuth - b.lamp.azimuth);
}
