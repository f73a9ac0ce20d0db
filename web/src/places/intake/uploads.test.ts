import { describe, expect, it } from "vitest";
import { needsSorting, refusal } from "./uploads";

describe("refusal before sending", () => {
  const health = { limits: { max_bytes: 1000, max_side: 10 } } as never;
  it("names the file, the reason and the way out", () => {
    expect(refusal({ name: "a.png", size: 0 }, health)).toContain("a.png is empty");
    expect(refusal({ name: "a.png", size: 1001 }, health)).toContain("the limit is 1.0 kB");
    expect(refusal({ name: "a.png", size: 1000 }, health)).toBeNull();
  });
});

it("sends several files, a zip or a glTF to be sorted, and one picture to the Tray", () => {
  const one = (path: string) => ({ path, file: { name: path } as File });
  expect(needsSorting([one("wall.png")])).toBe(false);
  expect(needsSorting([one("wall.png"), one("wall_n.png")])).toBe(true);
  expect(needsSorting([one("walls.ZIP")])).toBe(true);
  expect(needsSorting([one("kettle.glb")])).toBe(true);
});
