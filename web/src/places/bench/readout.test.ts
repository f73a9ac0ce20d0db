import { describe, expect, it } from "vitest";
import { shownNumber, stepOf } from "@/parts/dial-field";
import { bytes, metres, texels } from "@/parts/format";
import { linear, meaningOf, slopeOf } from "./readout";

const kind = (meaning: "color" | "data" | "normal", name: string) =>
  ({ kind: name, title: name, meaning, components: [], neutral: [] }) as never;

describe("read-out", () => {
  it("reads a flat normal as flat", () => {
    expect(meaningOf(kind("normal", "normal"), [128, 128, 255], 0)).toBe("flat");
  });
  it("reads a normal that leans 45 degrees up", () => {
    const code = Math.round((Math.SQRT1_2 / 2 + 0.5) * 255);
    const { tilt, toward } = slopeOf([128, code, code]);
    expect(tilt).toBeCloseTo(45, 0);
    expect(toward).toBeCloseTo(90, 0);
  });
  it("decodes sRGB as the standard says", () => {
    expect(linear(188)).toBeCloseTo(0.5029, 4);
    expect(linear(10)).toBeCloseTo(10 / 255 / 12.92, 6);
  });
  it("tells height in millimetres", () => {
    expect(meaningOf(kind("data", "height"), [51, 51, 51], 0.02)).toBe("height 4.00 mm");
  });
});

describe("figures", () => {
  it("shows sizes as people read them", () => {
    expect([bytes(999), bytes(1500), bytes(512e6)]).toEqual(["999 B", "1.5 kB", "512 MB"]);
    expect([texels(1024, 1024), texels(640, 480)]).toEqual(["1024²", "640 × 480"]);
    expect([metres(0.006), metres(0.05), metres(0.9)]).toEqual(["6.0 mm", "5.0 cm", "0.90 m"]);
  });
  it("steps on round numbers and shows as many places as they need", () => {
    expect(stepOf(0, 1)).toBeCloseTo(0.005);
    expect(stepOf(0, 0.02)).toBeCloseTo(0.0001);
    expect(shownNumber(0.5, 0.005)).toBe("0.500");
    expect(shownNumber(4, 0.05)).toBe("4.00");
  });
});
