import { expect, test } from "vitest";
import { inWords, placeOf, towardsOf, withAngles } from "./lights";

test("a light is drawn where the dome has it, and read from there again", () => {
  expect(placeOf({ around: 0, up: 60 })[0]).toBeCloseTo(0.5);
  expect(placeOf({ around: 90, up: 60 })[1]).toBeCloseTo(-0.5); // the top is up
  for (const light of [
    { around: 35, up: 50 },
    { around: 200, up: 35 },
    { around: 359, up: 12 },
  ]) {
    expect(towardsOf(placeOf(light))).toEqual(light);
  }
});

test("beyond the rim a light is as low as can be, and angles come round", () => {
  expect(towardsOf([3, 0])).toEqual({ around: 0, up: 2 });
  expect(withAngles(-10, 95)).toEqual({ around: 350, up: 90 });
  expect(withAngles(359.99, 40).around).toBe(0);
});

test("it is told in words", () => {
  expect(inWords({ around: 135, up: 48 })).toBe(
    "from the upper left (azimuth 135°), elevation 48°",
  );
  expect(inWords({ around: 350, up: 30 })).toBe("from the right (azimuth 350°), elevation 30°");
  expect(inWords({ around: 120, up: 86 })).toBe("from above, elevation 86°");
});
