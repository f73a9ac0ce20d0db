import { describe, expect, it } from "vitest";
import { sheetOf, tileAt } from "./sheet";

describe("sheetOf", () => {
  it("puts tens above ones, as the numbers go", () => {
    const sheet = sheetOf([1012, 1001, 1002]);
    expect(sheet).toMatchObject({ left: 0, top: -1, columns: 2, rows: 2 });
    expect(sheet?.numberAt(0, 0)).toBe(1011);
    expect(sheet?.numberAt(1, 1)).toBe(1002);
  });
  it("begins where the first tile lies", () => {
    expect(sheetOf([1023, 1024])).toMatchObject({ left: 2, top: -2, columns: 2, rows: 1 });
    expect(sheetOf([])).toBeNull();
  });
});

describe("tileAt", () => {
  it("tells the tile and the place in it", () => {
    const sheet = sheetOf([1001, 1002, 1011, 1012]);
    if (!sheet) throw new Error("there are tiles");
    expect(tileAt(sheet, 0.75, 0.25)).toEqual({ number: 1012, u: 0.5, v: 0.5 });
    expect(tileAt(sheet, 0, 0.5)).toEqual({ number: 1001, u: 0, v: 0 });
  });
});
