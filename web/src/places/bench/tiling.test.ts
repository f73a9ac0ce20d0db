import { expect, it } from "vitest";
import { tilingLabel, tilingOf, wrapOf } from "./tiling";

it("converts and names the directions in which a surface is tileable", () => {
  const known = [
    [true, "both", "tileable"],
    [false, "none", "not tileable"],
    ["across", "across", "tileable horizontally"],
    ["down", "down", "tileable vertically"],
  ] as const;
  for (const [wrap, tiling, label] of known) {
    expect(tilingOf(wrap)).toBe(tiling);
    expect(wrapOf(tiling)).toBe(wrap);
    expect(tilingLabel(wrap)).toBe(label);
  }
});
