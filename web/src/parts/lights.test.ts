import { expect, test } from "vitest";
import { inWords, placeOf, towardsOf, withAngles } from "./lights";

test("a light is drawn where the dome has it, and read from there again", () => {
  expect(placeOf({ azimuth: 0, elevation: 60 })[0]).toBeCloseTo(0.5);
  expect(placeOf({ azimuth: 90, elevation: 60 })[1]).toBeCloseTo(-0.5); // the top is up
  for (const light of [
    { azimuth: 35, elevation: 50 },
    { azimuth: 200, elevation: 35 },
    { azimuth: 359, elevation: 12 },
  ]) {
    expect(towardsOf(placeOf(light))).toEqual(light);
  }
});

test("beyond the rim a light is as low as can be, and angles come round", () => {
  expect(towardsOf([3, 0])).toEqual({ azimuth: 0, elevation: 2 });
  expect(withAngles(-10, 95)).toEqual({ azimuth: 350, elevation: 90 });
  expect(withAngles(359.99, 40).azimuth).toBe(0);
});

test("it is told in words", () => {
  expect(inWords({ azimuth: 135, elevation: 48 })).toBe(
    "from the upper left (azimuth 135°), elevation 48°",
  );
  expect(inWords({ azimuth: 350, elevation: 30 })).toBe(
    "from the right (azimuth 350°), elevation 30°",
  );
  expect(inWords({ azimuth: 120, elevation: 86 })).toBe("from above, elevation 86°");
});
