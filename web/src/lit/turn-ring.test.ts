import { describe, expect, it } from "vitest";
import { turned } from "./turn-ring";

describe("the ring of the surrounding", () => {
  it("goes around both ways and stays within half a turn", () => {
    expect(turned(0)).toBe(0);
    expect(turned(179.6)).toBe(-180);
    expect(turned(190)).toBe(-170);
    expect(turned(-195)).toBe(165);
    expect(turned(725)).toBe(5);
  });
});
