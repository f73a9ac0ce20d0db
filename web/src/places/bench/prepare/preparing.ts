// Reads and changes a set's preparation; positions are fractions of the picture.
import type { Preparation, PreparedFacts } from "@/api/client";
import type { Change, Draft } from "../use-draft";

export type Place = [number, number];
export type FrameSpec = Preparation["frame"];
export type Corners = [Place, Place, Place, Place];
export type Crop = [number, number, number, number];
export type Tool = "corners" | "crop" | "marks" | "ruler" | "ball" | "grey";

export const WHOLE: Crop = [0, 0, 1, 1];
export const PLAIN_FRAME: FrameSpec = {
  corners: null,
  aspect: null,
  quarter_turns: 0,
  mirror: false,
  angle: 0,
  crop: WHOLE,
};
export const PLAIN: Preparation = {
  frame: PLAIN_FRAME,
  marks: [],
  light: null,
  seams: null,
  size: null,
  ruler: null,
};
export const PICTURE_CORNERS: Corners = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];
/** Smallest side of a crop as a fraction of the picture, as in the core. */
const LEAST_CROP = 0.01;
const LEAST_TURN = 1e-4;

/** Replace the steps of the preparation. */
export function preparing(part: Partial<Preparation>): Change {
  return (draft) => ({ ...draft, prepare: { ...draft.prepare, ...part } });
}

/** Change the frame of the picture. */
export function framing(part: Partial<FrameSpec>): Change {
  return (draft) => preparing({ frame: { ...draft.prepare.frame, ...part } })(draft);
}

/** Rotate the stated light direction of the photo in all maps that use it. */
export function rotatingLight(turn: (from: number) => number): Change {
  return (draft) => {
    const maps = Object.entries(draft.maps).map(([kind, way]) => {
      const from = way.how === "derived" ? way.parameters?.light_direction : undefined;
      if (way.how !== "derived" || typeof from !== "number") return [kind, way];
      const light_direction = ((turn(from) % 360) + 360) % 360 || 0;
      return [kind, { ...way, parameters: { ...way.parameters, light_direction } }];
    });
    return { ...draft, maps: Object.fromEntries(maps) };
  };
}

/** Positions and sides as tuples; the schema declares them as lists. */
export const cropOf = (frame: FrameSpec) => frame.crop as Crop;
export const outlineOf = (mark: Preparation["marks"][number]) => mark.outline as Place[];

/**
 * Width of the prepared picture in meters: by the ruler, else from the stated width and the crop.
 */
export function widthOf(draft: Draft, facts: PreparedFacts): number {
  if (draft.prepare.ruler) return facts.surface.tile_size;
  return draft.surface.tile_size * facts.width_share;
}

/** Set the width of the prepared picture. */
export function withWidth(metres: number, facts: PreparedFacts): Change {
  const tile_size = metres / facts.width_share;
  return (draft) => ({ ...draft, surface: { ...draft.surface, tile_size } });
}

/** Whether tileable borders stay tileable: the whole picture is used, at most rotated by 90°. */
export function keepsBorders({ corners, angle, crop }: FrameSpec): boolean {
  return !corners && angle === 0 && String(crop) === String(WHOLE);
}

/** Number of active steps. */
export function activeSteps(prepare: Preparation): number {
  const { frame, marks, light, seams, size } = prepare;
  const framed = JSON.stringify({ ...frame, aspect: null }) !== JSON.stringify(PLAIN_FRAME);
  return [framed, marks.length > 0, light?.strength, seams, size].filter(Boolean).length;
}

/** Whether the corners are clockwise and convex, as in the core. */
export function areConvex(corners: Corners): boolean {
  return corners.every((corner, n) => {
    const [b, c] = [corners[(n + 1) % 4], corners[(n + 2) % 4]] as [Place, Place];
    const [ux, uy] = [b[0] - corner[0], b[1] - corner[1]];
    const [vx, vy] = [c[0] - b[0], c[1] - b[1]];
    return ux * vy - uy * vx > LEAST_TURN;
  });
}

/** Clamp a point to the picture. */
export function within([x, y]: Place): Place {
  return [Math.min(1, Math.max(0, x)), Math.min(1, Math.max(0, y))];
}

/** Move a corner (0 top left, clockwise) of the crop. */
export function cropWith(crop: Crop, corner: number, place: Place): Crop {
  const [x, y] = within(place);
  const [left, top, right, bottom] = crop;
  const atLeft = corner === 0 || corner === 3;
  const atTop = corner < 2;
  return [
    atLeft ? Math.min(x, right - LEAST_CROP) : left,
    atTop ? Math.min(y, bottom - LEAST_CROP) : top,
    atLeft ? right : Math.max(x, left + LEAST_CROP),
    atTop ? bottom : Math.max(y, top + LEAST_CROP),
  ];
}

/** Move the crop within the picture. */
export function cropMoved(crop: Crop, dx: number, dy: number): Crop {
  const [left, top, right, bottom] = crop;
  const x = Math.min(1 - right, Math.max(-left, dx));
  const y = Math.min(1 - bottom, Math.max(-top, dy));
  return [left + x, top + y, right + x, bottom + y];
}

/** Move one side (left, top, right, bottom) of the crop to a fraction of the picture. */
export function cropSide(crop: Crop, side: number, share: number): Crop {
  const next: Crop = [...crop];
  const other = crop[(side + 2) % 4] ?? 0;
  const bound = side < 2 ? other - LEAST_CROP : other + LEAST_CROP;
  next[side] = side < 2 ? Math.max(0, Math.min(share, bound)) : Math.min(1, Math.max(share, bound));
  return next;
}

/** A round spot; the radius is a fraction of the picture's width, aspect is width over height. */
export function spot([x, y]: Place, radius: number, aspect: number): Place[] {
  const around = Array.from({ length: 24 }, (_, n) => (n / 24) * 2 * Math.PI);
  return around.map((a) => within([x + radius * Math.cos(a), y + radius * aspect * Math.sin(a)]));
}

/** Simplify a stroke: points have at least this distance. */
export function simplified(line: Place[], least: number, most: number): Place[] {
  const kept: Place[] = [];
  for (const place of line) {
    const last = kept.at(-1);
    if (!last || Math.hypot(place[0] - last[0], place[1] - last[1]) >= least) kept.push(place);
  }
  const every = Math.ceil(kept.length / most);
  return kept.filter((_, n) => n % every === 0);
}

/** The center of an outline. */
export function middleOf(outline: readonly (readonly [number, number])[]): Place {
  const sum = (n: 0 | 1) => outline.reduce((all, place) => all + place[n], 0);
  return [sum(0) / outline.length, sum(1) / outline.length];
}

/** "4:3" or "1.5" as width over height; null for empty, undefined if invalid. */
export function ratioOf(text: string): number | null | undefined {
  if (!text.trim()) return null;
  const [across = "", down = "1", ...more] = text.replaceAll(",", ".").split(":");
  const ratio = Number(across) / Number(down);
  return more.length === 0 && ratio >= 0.05 && ratio <= 20 ? ratio : undefined;
}
