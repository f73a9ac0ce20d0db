import { describe, expect, it } from "vitest";
import { differenceOf, grey, pieceFor, readOut } from "./texels";

describe("a piece of a channel", () => {
  it("covers what is shown, from a multiple of 64 on, and never leaves the channel", () => {
    const size = { width: 1000, height: 200 };
    const piece = pieceFor(size, { x: 0.5, y: 0.5 }, 100);
    expect(piece).toEqual({ left: 448, upper: 0, columns: 128, rows: 192 });
    expect(piece.left).toBeLessThanOrEqual(450);
    expect(piece.left + piece.columns).toBeGreaterThanOrEqual(550);
    expect(pieceFor(size, { x: 0, y: 1 }, 100)).toEqual({
      left: 0,
      upper: 128,
      columns: 64,
      rows: 72,
    });
    expect(pieceFor({ width: 1, height: 1 }, { x: 1, y: 1 }, 50)).toEqual({
      left: 0,
      upper: 0,
      columns: 1,
      rows: 1,
    });
  });

  it("is shown grey by its largest code", () => {
    expect([...grey(new Float32Array([0, 65535]), 65535)]).toEqual([
      0, 0, 0, 255, 255, 255, 255, 255,
    ]);
    expect(grey(new Float32Array([0.5]), null)[0]).toBe(128);
  });

  it("says how far two states are apart, amplified and no more than 1", () => {
    const values = { a: new Float32Array([10, 200]), b: new Float32Array([12, 20]) };
    const [small, large] = differenceOf({ values, top: 255 }, ["a", "b"], 16);
    expect(small).toBeCloseTo((2 * 16) / 255);
    expect(large).toBe(1);
  });

  it("tells codes as codes and the map as a value", () => {
    const of = {
      left: 64,
      upper: 0,
      columns: 2,
      rows: 1,
      top: 255,
      values: { held: new Float32Array([7, 8]), map: new Float32Array([0.25, 0.5]) },
    };
    const titles = { map: "map", held: "file" };
    expect(readOut(of, { x: 65, y: 0 }, titles)).toBe("65, 0: map 0.5000 · file 8");
    expect(readOut(of, { x: 63, y: 0 }, titles)).toBe("63, 0: outside");
    expect(readOut({ ...of, top: null }, { x: 64, y: 0 }, titles)).toBe(
      "64, 0: map 0.2500 · file 7.0000",
    );
  });
});
