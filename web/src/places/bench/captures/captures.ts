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

/** Include or exclude a capture; at least three are needed. */
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

/** Sorted by azimuth, the order of a light that moves around the surface. */
export function capturesByAzimuth(captures: CapturesSpec): CaptureSpec[] {
  return [...captures.captures].sort((a, b) => a.lamp.azimuth - b.lamp.azimuth);
}
