import { describe, expect, it } from "vitest";
import { written } from "./commands";
import { matching } from "./palette";

const press = (key: string, more: object = {}) =>
  written({ key, ctrlKey: false, metaKey: false, shiftKey: false, ...more });

describe("keys", () => {
  it("are written as they are shown", () => {
    expect(press("t")).toBe("t");
    expect(press("X", { shiftKey: true })).toBe("Shift+X");
    expect(press("z", { ctrlKey: true })).toBe("Ctrl+Z");
    expect(press("Z", { metaKey: true, shiftKey: true })).toBe("Ctrl+Shift+Z");
    expect(press("?", { shiftKey: true })).toBe("?");
    expect(press("ArrowUp", { shiftKey: true })).toBe("Shift+ArrowUp");
  });
});

describe("the palette", () => {
  const commands = ["Show Normal", "Go to Tray", "Lit view: next shape"].map((label) => ({
    id: label,
    label,
    run: () => {},
  }));
  it("finds by the beginnings of words, in any order", () => {
    const found = (typed: string) => matching(commands, typed).map((one) => one.label);
    expect(found("norm")).toEqual(["Show Normal"]);
    expect(found("sha lit")).toEqual(["Lit view: next shape"]);
    expect(found("ray")).toEqual([]);
    expect(found("")).toHaveLength(3);
  });
});

describe("synonyms of the trade", () => {
  const commands = [
    "Base color: Saturation",
    "Show Base color",
    "Show Normal",
    "Show Roughness",
    "Show Occlusion",
    "Height: Invert",
    "Go to Deliveries",
    "Selection: Delete…",
    "Lit view: next environment",
    "Board: add or edit webhooks",
  ].map((label) => ({ id: label, label, run: () => {} }));
  const first = (typed: string) => matching(commands, typed)[0]?.label;
  it.each([
    ["saturation", "Base color: Saturation"],
    ["albedo", "Base color: Saturation"],
    ["export", "Go to Deliveries"],
    ["delete", "Selection: Delete…"],
    ["remove", "Selection: Delete…"],
    ["invert", "Height: Invert"],
    ["webhook", "Board: add or edit webhooks"],
    ["HDRI", "Lit view: next environment"],
    ["AO", "Show Occlusion"],
    ["gloss", "Show Roughness"],
    ["roughness", "Show Roughness"],
    ["DirectX", "Show Normal"],
    ["OpenGL", "Show Normal"],
    ["Y-", "Show Normal"],
  ])("%s finds %s", (typed, label) => {
    expect(first(typed)).toBe(label);
  });
});
