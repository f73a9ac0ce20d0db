import { describe, expect, it } from "vitest";
import type { KindRead, TargetPreset } from "@/api/client";
import {
  blank,
  connected,
  EMPTY,
  type FileSpec,
  freeId,
  holds,
  inFormat,
  kindsIn,
  packedIn,
  type Row,
  rowsOf,
  shared,
  sizeOf,
  sizeWord,
  swapped,
  takesLuminance,
  titled,
  withFacts,
  withNewFile,
  withoutChannel,
  withoutFile,
  withoutSegment,
  withSegment,
  withSlot,
} from "./packing";

const preset = {
  id: "own",
  title: "Own",
  files: [
    {
      name: "{set}_{suffix}",
      suffix: "mask",
      format: "png",
      bits: 8,
      encoding: "linear",
      channels: { R: { ...EMPTY, map: "metallic", constant: null } },
    },
  ],
} as unknown as TargetPreset;
const kinds = [
  { kind: "base_color", meaning: "color", components: ["r", "g", "b"] },
  { kind: "roughness", meaning: "data", components: ["v"] },
  { kind: "normal", meaning: "normal", components: ["x", "y", "z"] },
] as unknown as KindRead[];
const roughness: Row = { kind: "roughness", component: "v", label: "", first: true };
const file = (one: TargetPreset) => one.files[0] as TargetPreset["files"][0];

const formats = [
  { name: "png", bits: [8, 16], channels: [1, 3, 4], floating_bits: [] },
  { name: "exr", bits: [16, 32], channels: [1, 2, 3, 4], floating_bits: [16, 32] },
  { name: "hdr", bits: [32], channels: [3], floating_bits: [32] },
  { name: "webp", bits: [8], channels: [3, 4], floating_bits: [] },
  { name: "dds", bits: [8], channels: [1, 2, 3, 4], floating_bits: [], blocks: true },
  { name: "ktx2", bits: [8], channels: [1, 2, 3, 4], floating_bits: [], blocks: true },
] as unknown as Parameters<typeof withNewFile>[1];

describe("rows", () => {
  it("give each component its own, and a color its luminance", () => {
    const labels = rowsOf(
      kinds,
      () => true,
      () => true,
    ).map((row) => `${row.kind} ${row.label}`.trim());
    expect(labels).toEqual([
      "base_color r",
      "base_color g",
      "base_color b",
      "base_color luminance",
      "roughness",
      "normal x",
      "normal y",
      "normal z",
    ]);
    const none = () => false;
    expect(rowsOf(kinds, (kind) => kind === "roughness", none)).toHaveLength(1);
    expect(rowsOf(kinds, (kind) => kind === "base_color", none)).toHaveLength(3);
    const luminance = { ...EMPTY, constant: null, map: "base_color", component: "l" } as const;
    const grey = withSlot(preset, 0, "R", luminance, formats);
    expect(takesLuminance(grey, "base_color")).toBe(true);
    expect(takesLuminance(preset, "base_color")).toBe(false);
  });
});

describe("a channel", () => {
  it("is connected, and the channels before it are filled", () => {
    const next = connected(preset, 0, "G", roughness, formats);
    expect(Object.keys(file(next).channels).sort()).toEqual(["B", "G", "R"]);
    expect(holds(file(next).channels.G, roughness)).toBe("plain");
    expect(file(next).channels.B?.constant).toBe(0);
    expect(holds(file(next).channels.R, roughness)).toBe("none");
    expect([...kindsIn(next)]).toEqual(["metallic", "roughness"]);
    expect(file(preset).channels.G).toBeUndefined();
  });
  it("says when it is changed or shared", () => {
    const slot = file(connected(preset, 0, "R", roughness, formats)).channels.R ?? EMPTY;
    expect(holds({ ...slot, changes: [{ do: "invert" }] }, roughness)).toBe("changed");
    const segments = [{ map: "roughness", component: "v", changes: [], codes: [0, 9] }] as never;
    expect(holds({ ...EMPTY, constant: null, segments }, roughness)).toBe("part");
  });
  it("changes places with another", () => {
    const next = swapped(connected(preset, 0, "B", roughness, formats), 0, "R", "B", formats);
    expect(file(next).channels.R?.map).toBe("roughness");
    expect(file(next).channels.B?.map).toBe("metallic");
    expect(swapped(preset, 0, "R", "A", formats)).toEqual(preset);
  });
  it("is taken away: the alpha alone, or what makes the file colored", () => {
    const full = connected(preset, 0, "A", roughness, formats);
    expect(Object.keys(file(full).channels)).toHaveLength(4);
    expect(file(withoutChannel(full, 0, "A", formats)).channels.A).toBeUndefined();
    expect(Object.keys(file(withoutChannel(full, 0, "G", formats)).channels)).toEqual(["R"]);
    expect(withSlot(preset, 0, "R", EMPTY, formats).files[0]?.channels.R?.constant).toBe(0);
  });
});

describe("files", () => {
  it("come and go under free suffixes", () => {
    const two = withNewFile(withNewFile(preset, formats), formats);
    expect(two.files.map((one) => one.suffix)).toEqual(["mask", "new", "new2"]);
    expect(withoutFile(two, 1).files.map((one) => one.suffix)).toEqual(["mask", "new2"]);
  });
});

describe("a channel that maps share", () => {
  const slot = file(connected(preset, 0, "R", roughness, formats)).channels.R ?? EMPTY;
  it("keeps what it held in the lower codes", () => {
    const both = shared(slot, "metallic");
    expect(both.map).toBeNull();
    expect(both.segments.map((one) => [one.map, one.codes, one.above])).toEqual([
      ["metallic", [230, 255], 0.5],
      ["roughness", [0, 229], null],
    ]);
    const three = shared(both, "height");
    expect(three.segments[0]?.codes).toEqual([205, 229]);
    expect(three.segments.at(-1)?.above).toBeNull();
    expect(shared(EMPTY, "height")).toEqual(EMPTY);
  });
  it("is one map's again when the others go", () => {
    const both = withSegment(shared(slot, "metallic"), 0, { codes: [200, 255] });
    expect(both.segments[0]?.codes).toEqual([200, 255]);
    expect(withoutSegment(both, 0)).toEqual(slot);
    const upper = withoutSegment(both, 1);
    expect([upper.map, upper.segments]).toEqual(["metallic", []]);
    const three = shared(both, "height");
    expect(withoutSegment(three, 2).segments.at(-1)?.above).toBeNull();
  });
});

describe("a target from nothing", () => {
  it("has one file with one empty channel", () => {
    const one = blank("bare");
    expect(one.files).toHaveLength(1);
    expect(file(one).name).toBe("{set}_{suffix}");
    expect(file(one).channels).toEqual({ R: EMPTY });
  });
});

describe("ids", () => {
  it("are plain, and free", () => {
    expect(freeId("MRA packed, Y− (copy)", [])).toBe("mra-packed-y-copy");
    expect(freeId("Own", ["own", "own-2"])).toBe("own-3");
    expect(freeId("…", [])).toBe("target");
  });
});

describe("what a set brings", () => {
  it("tells which maps came packed in one picture", () => {
    const from = (source: string, channels: string) =>
      ({ how: "imported", source, channels }) as const;
    const maps = [
      { kind: "roughness", definition: from("a", "G") },
      { kind: "metallic", definition: from("a", "B") },
      { kind: "height", definition: from("b", "R") },
      { kind: "base_color", definition: from("c", "RGB") },
      { kind: "opacity", definition: from("c", "A") },
    ] as unknown as Parameters<typeof packedIn>[0];
    expect([...packedIn(maps)]).toEqual([
      ["roughness", "G"],
      ["metallic", "B"],
      ["opacity", "A"],
    ]);
  });
});

describe("how a file is written", () => {
  const file = {
    ...preset.files[0],
    compression: "rle",
    quality: 80,
    mips: true,
    tiles: true,
    dither: true,
  } as FileSpec;
  const format = {
    name: "exr",
    bits: [16, 32],
    floating_bits: [16, 32],
    mips: true,
    tiles: true,
  } as unknown as Parameters<typeof inFormat>[1];

  it("keeps in another format what that knows", () => {
    expect(inFormat(file, format)).toMatchObject({
      format: "exr",
      compression: null,
      quality: null,
      mips: true,
      tiles: true,
      dither: false,
      encoding: "linear",
    });
    const plain = { ...format, bits: [8], floating_bits: [], mips: false, tiles: false };
    expect(inFormat({ ...file, encoding: "srgb" }, plain as never)).toMatchObject({
      mips: false,
      tiles: false,
      dither: true,
      encoding: "srgb",
    });
  });

  it("says a size as one word and reads it again", () => {
    for (const word of ["source", "half", "at_most 1024", "fixed 512"])
      expect(sizeWord(sizeOf(word))).toBe(word);
  });

  it("lets red and green stand alone where a format holds pairs", () => {
    const pair = { ...preset, files: [{ ...file, format: "ktx2", channels: {} }] } as TargetPreset;
    const green = withSlot(pair, 0, "G", EMPTY, formats).files[0];
    expect(Object.keys(green?.channels ?? {})).toEqual(["G", "R"]);
    const blue = withSlot(withSlot(pair, 0, "G", EMPTY, formats), 0, "B", EMPTY, formats);
    expect(Object.keys(blue.files[0]?.channels ?? {}).sort()).toEqual(["B", "G", "R"]);
    expect(Object.keys(withoutChannel(blue, 0, "B", formats).files[0]?.channels ?? {})).toEqual([
      "R",
      "G",
    ]);
  });
});

describe("the encoding of a file", () => {
  const color: Row = { kind: "base_color", component: "r", label: "r", first: true };
  const data: Row = { kind: "roughness", component: "v", label: "", first: true };
  const grey: Row = { kind: "base_color", component: "l", label: "luminance", first: false };
  const encodingOf = (preset: TargetPreset) => preset.files[0]?.encoding;

  it("follows the map that is connected", () => {
    const fresh = blank("own");
    expect(encodingOf(connected(fresh, 0, "R", color, formats))).toBe("srgb");
    expect(
      encodingOf(connected(connected(fresh, 0, "R", color, formats), 0, "R", data, formats)),
    ).toBe("linear");
    expect(encodingOf(connected(fresh, 0, "R", grey, formats))).toBe("linear");
    expect(
      encodingOf(connected(connected(fresh, 0, "R", color, formats), 0, "A", data, formats)),
    ).toBe("srgb");
  });

  it("stays as somebody chose it", () => {
    const chosen = withFacts(connected(blank("own"), 0, "R", color, formats), 0, {
      encoding: "linear",
    });
    expect(encodingOf(connected(chosen, 0, "G", { ...color, component: "g" }, formats))).toBe(
      "linear",
    );
  });

  it("is linear light in floating point", () => {
    const floating = withFacts(blank("own"), 0, { format: "exr", bits: 16 });
    expect(encodingOf(connected(floating, 0, "R", color, formats))).toBe("linear");
  });
});

describe("one more file", () => {
  it("has a depth that its format knows", () => {
    for (const [format, bits] of [
      ["exr", 16],
      ["hdr", 32],
      ["dds", 8],
      ["webp", 8],
    ] as const) {
      const last = withNewFile(withFacts(blank("own"), 0, { format, bits }), formats).files.at(-1);
      const fits = { exr: [16, 32], hdr: [32], png: [8, 16] } as Record<string, number[]>;
      expect(fits[last?.format ?? ""]).toContain(last?.bits);
    }
  });
});

describe("the folder of a target", () => {
  it("follows its title until it is called otherwise", () => {
    const copy = { ...blank("orm-copy"), title: "ORM copy" };
    const renamed = titled(copy, "Team pack", ["orm"]);
    expect(renamed.id).toBe("team-pack");
    expect(titled(renamed, "ORM", ["orm"]).id).toBe("orm-2");
    expect(titled({ ...copy, id: "mine" }, "Team pack", []).id).toBe("mine");
  });
});
