import { describe, expect, it } from "vitest";
import { lightAt } from "./use-environment";

describe("where the lamp stands for the brightest place", () => {
  it("is right, above, and towards the eye", () => {
    expect(lightAt([1, 0, 0], 0)).toEqual({ azimuth: 0, elevation: 4 });
    expect(lightAt([0, 1, 0], 0)).toEqual({ azimuth: 90, elevation: 4 });
    expect(lightAt([0, 0, 1], 0).elevation).toBe(90);
  });
  it("goes around with the surrounding", () => {
    // After a quarter turn, the direction toward the camera points right.
    expect(lightAt([0, 0, 1], 90)).toEqual({ azimuth: 0, elevation: 4 });
    expect(lightAt([1, 0, 0], -90).elevation).toBe(90);
    expect(lightAt([0.6, 0.5, 0.2], 360)).toEqual(lightAt([0.6, 0.5, 0.2], 0));
  });
  it("stays in front where the place lies behind", () => {
    expect(lightAt([0.5, 0.5, -0.7], 0)).toEqual({ azimuth: 45, elevation: 4 });
  });
});
