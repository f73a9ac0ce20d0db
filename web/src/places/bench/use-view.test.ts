import { describe, expect, it } from "vitest";
import { laid } from "./use-view";

const window = { width: 600, height: 446 };
const still = { x: 0, y: 0 };

describe("where a picture lies", () => {
  it("is whole below the controls, in the middle", () => {
    const view = laid(window, { width: 1000, height: 500 }, 1, "fit", { x: 50, y: 50 }, 1);
    expect(view.scale).toBeCloseTo(0.6);
    expect(view.left).toBeCloseTo(0); // a fitted picture can't be moved
    expect(view.top).toBeCloseTo(46 + (400 - 300) / 2);
  });

  it("leaves room below for what stands there", () => {
    const view = laid(window, { width: 100, height: 100 }, 1, "fit", still, 1, 40);
    expect(view.scale).toBeCloseTo(3.6);
    expect(view.top).toBeCloseTo(46);
  });

  it("is whole as a tile, repeated", () => {
    const view = laid(window, { width: 100, height: 100 }, 2, "fit", still, 1);
    expect(view.scale).toBeCloseTo(2);
    expect(view.left).toBeCloseTo(100);
  });

  it("has one texel on one pixel of the screen, whatever its density, and moves with the hand", () => {
    const view = laid(window, { width: 1000, height: 500 }, 1, "1", { x: 7, y: -3 }, 2);
    expect(view.scale).toBeCloseTo(0.5);
    expect(view.left).toBeCloseTo((600 - 500) / 2 + 7);
    expect(view.top).toBeCloseTo((446 - 250) / 2 - 3);
    expect(laid(window, { width: 10, height: 10 }, 1, "8", still, 1).scale).toBe(8);
  });
});
