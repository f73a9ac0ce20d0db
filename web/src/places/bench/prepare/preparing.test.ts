import { describe, expect, it } from "vitest";
import type { PreparedFacts } from "@/api/client";
import type { Draft } from "../use-draft";
import {
  activeSteps,
  areConvex,
  cropMoved,
  cropSide,
  cropWith,
  keepsBorders,
  PICTURE_CORNERS,
  PLAIN,
  PLAIN_FRAME,
  ratioOf,
  rotatingLight,
  simplified,
  spot,
  widthOf,
  withWidth,
} from "./preparing";

describe("steps", () => {
  it("counts those that do something; a ruler and a bare aspect do not", () => {
    expect(activeSteps(PLAIN)).toBe(0);
    const ruler = { start: [0, 0], end: [1, 0], metres: 1 } as const;
    expect(activeSteps({ ...PLAIN, ruler: { ...ruler, start: [0, 0], end: [1, 0] } })).toBe(0);
    expect(activeSteps({ ...PLAIN, frame: { ...PLAIN_FRAME, aspect: 2 } })).toBe(0);
    expect(activeSteps({ ...PLAIN, light: { strength: 0, scale: 0.1 } })).toBe(0);
    expect(
      activeSteps({
        ...PLAIN,
        frame: { ...PLAIN_FRAME, mirror: true },
        light: { strength: 0.5, scale: 0.1 },
        seams: { method: "gradient", overlap: [0, 0], by_measure: true },
      }),
    ).toBe(3);
  });
});

describe("the width of the prepared picture", () => {
  const surface = { tile_size: 0.8, depth: null, relief: 6, wrap: false };
  const draft = { surface, prepare: PLAIN, maps: {}, shelf: {}, model: null } as unknown as Draft;
  const facts = { width_share: 0.25, surface: { ...surface, tile_size: 0.33 } } as PreparedFacts;
  it("is what is left of the stated one, and said back the same", () => {
    expect(widthOf(draft, facts)).toBeCloseTo(0.2);
    const wider = withWidth(0.5, facts)(draft);
    expect(wider.surface.tile_size).toBeCloseTo(2);
    expect(widthOf(wider, facts)).toBeCloseTo(0.5);
  });
  it("is by the ruler where there is one", () => {
    const ruler = { start: [0, 0], end: [1, 0], metres: 1 };
    const ruled = { ...draft, prepare: { ...PLAIN, ruler } } as unknown as Draft;
    expect(widthOf(ruled, facts)).toBe(0.33);
  });
});

describe("the light of the photo", () => {
  it("turns where a way follows it", () => {
    const draft = {
      maps: {
        height: {
          how: "derived",
          operation: "height_from_color",
          parameters: { shading: 0.65, light_direction: 30 },
        },
        normal: { how: "derived", operation: "normal_from_height", parameters: {} },
      },
    } as unknown as Draft;
    const turned = rotatingLight((from) => from - 90)(draft);
    expect(turned.maps.height).toMatchObject({
      parameters: { shading: 0.65, light_direction: 300 },
    });
    expect(turned.maps.normal).toEqual(draft.maps.normal);
  });
});

describe("borders", () => {
  it("are kept by a turn and a mirror, and by nothing else", () => {
    expect(keepsBorders({ ...PLAIN_FRAME, quarter_turns: 1, mirror: true })).toBe(true);
    expect(keepsBorders({ ...PLAIN_FRAME, angle: 2 })).toBe(false);
    expect(keepsBorders({ ...PLAIN_FRAME, crop: [0, 0, 0.5, 1] })).toBe(false);
    expect(keepsBorders({ ...PLAIN_FRAME, corners: PICTURE_CORNERS })).toBe(false);
  });
});

describe("corners", () => {
  it("go round clockwise without a dent", () => {
    expect(areConvex(PICTURE_CORNERS)).toBe(true);
    const [a, b, c, d] = PICTURE_CORNERS;
    expect(areConvex([b, a, d, c])).toBe(false);
    expect(areConvex([a, b, [0.3, 0.3], d])).toBe(false);
    expect(areConvex([[0.7, 0.7], b, c, d])).toBe(false);
    expect(areConvex([a, [0.3, 0.7], c, d])).toBe(false);
    expect(areConvex([a, b, c, [0.7, 0.3]])).toBe(false);
    // A long way round, without a dent: each three in a row turn, not every other three.
    expect(areConvex([a, [1, 0.49], [1, 0.51], d])).toBe(true);
  });
});

describe("crop", () => {
  it("keeps a hundredth when a corner is dragged past the other", () => {
    expect(cropWith([0.2, 0.2, 0.6, 0.7], 0, [0.9, 0.1])).toEqual([0.59, 0.1, 0.6, 0.7]);
    expect(cropWith([0.2, 0.25, 0.6, 0.7], 2, [1.4, 0.1])).toEqual([0.2, 0.25, 1, 0.26]);
  });
  it("stops at the border when it is moved", () => {
    const moved = cropMoved([0.2, 0.2, 0.6, 0.7], 0.9, -0.1);
    for (const [n, side] of [0.6, 0.1, 1, 0.6].entries()) expect(moved[n]).toBeCloseTo(side);
  });
  it("has each side set by its number", () => {
    expect(cropSide([0, 0, 1, 1], 2, 0.5)).toEqual([0, 0, 0.5, 1]);
    expect(cropSide([0, 0, 0.5, 1], 0, 0.7)).toEqual([0.49, 0, 0.5, 1]);
  });
});

describe("marks", () => {
  it("are round on the picture whatever its shape", () => {
    const outline = spot([0.5, 0.5], 0.1, 2);
    expect(Math.max(...outline.map(([x]) => x))).toBeCloseTo(0.6);
    expect(Math.max(...outline.map(([, y]) => y))).toBeCloseTo(0.7);
  });
  it("lose places that lie too near, and some of too many", () => {
    expect(
      simplified(
        [
          [0, 0],
          [0.001, 0],
          [0.1, 0],
        ],
        0.01,
        400,
      ),
    ).toEqual([
      [0, 0],
      [0.1, 0],
    ]);
    const long = Array.from({ length: 1000 }, (_, n): [number, number] => [n / 1000, 0]);
    expect(simplified(long, 0, 400).length).toBeLessThanOrEqual(400);
  });
});

describe("aspect", () => {
  it("is read as a ratio or a number", () => {
    expect(ratioOf("4:3")).toBeCloseTo(4 / 3);
    expect(ratioOf("1,5")).toBe(1.5);
    expect(ratioOf(" ")).toBeNull();
    for (const bad of ["a", "4:0", "1:2:3", "0"]) expect(ratioOf(bad)).toBeUndefined();
  });
});
