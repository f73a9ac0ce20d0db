import { describe, expect, it } from "vitest";
import { colorsOf, withColor } from "./colors-field";
import { quantile, spreadOf } from "./histogram";
import { colorAt } from "./use-pick";

function image(width: number, height: number, fill: (at: number) => number[]): ImageData {
  const data = new Uint8ClampedArray(width * height * 4);
  for (let i = 0; i < width * height; i++) data.set([...fill(i), 255], i * 4);
  return { width, height, data } as ImageData;
}

describe("picking", () => {
  it("takes the mean of a texel and its neighbors, and fewer at a corner", () => {
    const codes = image(4, 4, (at) => (at === 5 ? [90, 0, 9] : [0, 0, 0]));
    expect(colorAt(codes, 1, 1)).toBe("#0a0001");
    expect(colorAt(codes, 0, 0)).toBe("#170002");
    expect(colorAt(codes, 3, 3)).toBe("#000000");
    const rounded = image(3, 3, (at) => (at === 4 ? [4, 4, 5] : [0, 0, 0]));
    expect(colorAt(rounded, 1, 1)).toBe("#000001"); // 4 and 5 ninths
  });
  it("adds a color once, and lets the oldest go where there are too many", () => {
    expect(withColor("", "#000001", 8)).toBe("#000001");
    expect(withColor("#000001,#000002", "#000001", 8)).toBe("#000002,#000001");
    expect(withColor("#000001,#000002", "#000003", 2)).toBe("#000002,#000003");
    expect(withColor("#000001", "#000002", 1)).toBe("#000002");
    expect(colorsOf("")).toEqual([]);
  });
});

describe("the histogram", () => {
  it("counts codes and finds shares", () => {
    const codes = image(10, 10, (at) => [at < 25 ? 10 : 200, 0, 0]);
    const spread = spreadOf(codes, [0]);
    expect(spread.bins[0]?.[10]).toBe(25);
    expect(spread.bins[0]?.[200]).toBe(75);
    expect(quantile(spread, 0.2)).toBe(10);
    expect(quantile(spread, 0.5)).toBe(200);
  });
});
