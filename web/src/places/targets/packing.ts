// Pure functions that edit a target's preset in the packing grid.
import type { KindRead, MapDefinition, MapKind, Schemas, TargetPreset } from "@/api/client";

export type FileSpec = Schemas["FileSpec"];
export type Slot = Schemas["Slot"];
export type Letter = "R" | "G" | "B" | "A";
export type Component = Slot["component"];

export const LETTERS: readonly Letter[] = ["R", "G", "B", "A"];

/** A row of the grid: a map's component, or null for constants. */
export interface Row {
  kind: MapKind;
  component: Component;
  label: string;
  /** The first row of its map. */
  first: boolean;
}

/**
 * Rows of the map types, in the vocabulary's order: each component of a color or a normal, and a
 * color's luminance if requested.
 */
export function rowsOf(
  kinds: KindRead[],
  shown: (kind: MapKind) => boolean,
  withLuminance: (kind: MapKind) => boolean,
): Row[] {
  return kinds
    .filter((one) => shown(one.kind))
    .flatMap((one) => {
      const grey = one.meaning === "color" && withLuminance(one.kind);
      const components = grey ? [...one.components, "l"] : one.components;
      return components.map((component, n) => ({
        kind: one.kind,
        component: component as Component,
        label: component === "v" ? "" : component === "l" ? "luminance" : component,
        first: n === 0,
      }));
    });
}

/** Source channels of a set's maps that were imported from one packed picture. */
export function packedIn(maps: { kind: MapKind; definition: MapDefinition }[]) {
  const found = new Map<MapKind, string>();
  const sources = maps.map(({ definition }) =>
    definition.how === "imported" ? definition.source : null,
  );
  for (const { kind, definition } of maps) {
    if (definition.how !== "imported" || definition.channels.length > 1) continue;
    const shared = sources.filter((one) => one === definition.source).length > 1;
    if (shared) found.set(kind, definition.channels);
  }
  return found;
}

/** Maps that a preset uses. */
export function kindsIn(preset: TargetPreset): Set<MapKind> {
  const found = new Set<MapKind>();
  for (const file of preset.files)
    for (const slot of Object.values(file.channels)) {
      if (slot.map) found.add(slot.map);
      for (const segment of slot.segments) found.add(segment.map);
    }
  return found;
}

/** Whether a channel of the preset contains a color's luminance. */
export function takesLuminance(preset: TargetPreset, kind: MapKind): boolean {
  const slots = preset.files.flatMap((file) => Object.values(file.channels));
  return slots
    .flatMap((slot) => [slot, ...slot.segments])
    .some((one) => one.map === kind && one.component === "l");
}

export type Hold = "none" | "plain" | "changed" | "part";

/** How a channel contains a component: not, unchanged, converted, or in a code range. */
export function holds(slot: Slot | undefined, row: Row): Hold {
  if (!slot) return "none";
  const same = (one: { map?: MapKind | null; component: Component }) =>
    one.map === row.kind && one.component === row.component;
  if (slot.segments.some(same)) return "part";
  if (!same(slot)) return "none";
  return slot.changes.length > 0 ? "changed" : "plain";
}

export const EMPTY: Slot = {
  map: null,
  component: "v",
  changes: [],
  constant: 0,
  segments: [],
  if_missing: "derive",
};

function withFile(preset: TargetPreset, n: number, change: (file: FileSpec) => FileSpec) {
  return { ...preset, files: preset.files.map((file, i) => (i === n ? change(file) : file)) };
}

/** Capabilities of the file formats, from the vocabulary. */
type Formats = Schemas["FormatRead"][];

const formatOf = (file: FileSpec, formats: Formats) =>
  formats.find((one) => one.name === file.format);

function withChannels(
  preset: TargetPreset,
  n: number,
  formats: Formats,
  change: (file: FileSpec) => FileSpec,
) {
  return withFile(preset, n, (file) => following(file, change(file), formats));
}

/** Set a channel; required other channels are filled with 0. */
export function withSlot(
  preset: TargetPreset,
  n: number,
  letter: Letter,
  slot: Slot,
  formats: Formats,
) {
  return withChannels(preset, n, formats, (file) => {
    const channels: FileSpec["channels"] = { ...file.channels, [letter]: slot };
    const beside: Letter[] = letter === "R" ? [] : ["R", "G", "B"];
    const pair = letter === "G" && !channels.B && holdsPairs(file, formats);
    for (const one of pair ? beside.slice(0, 2) : beside) channels[one] ??= EMPTY;
    return { ...file, channels };
  });
}

/** Connect a map's component to a channel. A color's opacity or data is optional. */
export function connected(
  preset: TargetPreset,
  n: number,
  letter: Letter,
  row: Row,
  formats: Formats,
) {
  const before = preset.files[n]?.channels[letter];
  const if_missing = before?.if_missing ?? (letter === "A" ? "omit" : "derive");
  const { kind: map, component } = row;
  const slot = { ...EMPTY, constant: null, map, component, if_missing };
  return withSlot(preset, n, letter, slot, formats);
}

/**
 * Encoding that a file's maps require: sRGB for color components, linear for data; null while it is
 * empty. Alpha is always data.
 */
export function askedEncoding(file: FileSpec): FileSpec["encoding"] | null {
  const { A, ...others } = file.channels;
  const held = Object.values(others)
    .flatMap((slot) => [slot, ...slot.segments])
    .filter((one) => one.map);
  if (held.length === 0) return null;
  return held.some((one) => ["r", "g", "b"].includes(one.component)) ? "srgb" : "linear";
}

/** A file after a change of its channels: the encoding follows them unless it was chosen. */
function following(before: FileSpec, after: FileSpec, formats: Formats): FileSpec {
  const asked = askedEncoding(before);
  const now = askedEncoding(after);
  const chosen = asked !== null && before.encoding !== asked;
  if (now === null || chosen || holdsLight(after, formats)) return after;
  return { ...after, encoding: now };
}

/** Floating-point files are linear for every map. */
const holdsLight = (file: FileSpec, formats: Formats) =>
  formatOf(file, formats)?.floating_bits.includes(file.bits);

/** Formats for red and green alone, as the x and y of a normal. */
export const holdsPairs = (file: FileSpec, formats: Formats) =>
  formatOf(file, formats)?.channels.includes(2) === true;

/** Remove a channel: an alpha, or one that makes a single-channel file a color file. */
export function withoutChannel(preset: TargetPreset, n: number, letter: Letter, formats: Formats) {
  return withChannels(preset, n, formats, (file) => {
    const { A, ...color } = file.channels;
    if (letter === "A") return { ...file, channels: color };
    const { R, G } = file.channels;
    if (letter === "B" && R && G && holdsPairs(file, formats))
      return { ...file, channels: { R, G } };
    return R && letter !== "R" ? { ...file, channels: { R } } : file;
  });
}

/** Swap two channels of a file. */
export function swapped(
  preset: TargetPreset,
  n: number,
  one: Letter,
  other: Letter,
  formats: Formats,
) {
  return withChannels(preset, n, formats, (file) => {
    const [a, b] = [file.channels[one], file.channels[other]];
    if (!a || !b) return file;
    return { ...file, channels: { ...file.channels, [one]: b, [other]: a } };
  });
}

/** Change a file's name, format, depth or encoding. */
export function withFacts(preset: TargetPreset, n: number, part: Partial<FileSpec>) {
  return withFile(preset, n, (file) => ({ ...file, ...part }));
}

type Size = FileSpec["size"];

/** A size rule as text: "half", "at_most 1024". */
export function sizeWord({ mode, longer_side }: Size): string {
  return mode === "fixed" || mode === "at_most" ? `${mode} ${longer_side}` : mode;
}

export function sizeOf(word: string): Size {
  const [mode, side] = word.split(" ");
  return { mode: mode as Size["mode"], longer_side: Number(side) || null };
}

/** Settings of a file in another format; unsupported ones return to the default. */
export function inFormat(
  file: FileSpec,
  format: Schemas["FormatRead"] | undefined,
): Partial<FileSpec> {
  if (!format) return {};
  const floating = format.floating_bits.length === format.bits.length;
  return {
    format: format.name as FileSpec["format"],
    compression: null,
    quality: null,
    tiles: file.tiles && format.tiles,
    mips: file.mips && format.mips && (!format.tiles || file.tiles),
    dither: file.dither && format.bits.includes(8),
    encoding: floating ? "linear" : file.encoding, // floating-point files hold linear light
  };
}

/** Add a file: like the last one, with one empty channel and a free suffix. */
export function withNewFile(preset: TargetPreset, formats: Formats): TargetPreset {
  const last = preset.files.at(-1);
  const taken = new Set(preset.files.map((file) => file.suffix));
  let suffix = "new";
  for (let n = 2; taken.has(suffix); n++) suffix = `new${n}`;
  const format = last && formatOf(last, formats);
  const like = format?.channels.includes(1) && !format.blocks ? last : null;
  const file: FileSpec = {
    name: last?.name.includes("{suffix}") ? last.name : "{set}_{suffix}",
    suffix,
    format: like?.format ?? "png",
    bits: like?.bits ?? 8, // a depth that the format supports
    encoding: "linear",
    mips: false,
    tiles: false,
    dither: false,
    size: { mode: "source" },
    channels: { R: EMPTY },
  };
  return { ...preset, files: [...preset.files, file] };
}

/** Formats with enough channels for a file. */
export function fittingFormats<F extends { channels: number[] }>(file: FileSpec, all: F[]): F[] {
  const count = Object.keys(file.channels).length;
  return all.filter((one) => one.channels.includes(count));
}

export function withoutFile(preset: TargetPreset, n: number): TargetPreset {
  return { ...preset, files: preset.files.filter((_, i) => i !== n) };
}

/** An empty target: one file with one empty channel. */
export function blank(id: string): TargetPreset {
  const empty = { files: [] as FileSpec[], documents: [], note: "", workflow: "metal_rough" };
  const plain = { ...empty, id, title: "New target", normal_y: "up", size: { mode: "source" } };
  const preset = {
    ...plain,
    resampling: "smooth",
    padding: { mode: "none", texels: 16, above: 0 },
    dielectric_f0: 0.04,
    height_mid: 0.5,
    height_unit: "share",
    names: { case: "as_written", separator: "as_written" },
    format: "copper-sieve/target-preset",
    version: 1,
  } as unknown as TargetPreset;
  return withNewFile(preset, []);
}

type Segment = Slot["segments"][number];

/** Share a channel between two maps: the new one gets the upper code range. */
export function shared(slot: Slot, map: MapKind): Slot {
  const fresh: Segment = { map, component: "v", changes: [], codes: [230, 255], above: 0.5 };
  if (slot.segments.length > 0) {
    const first = slot.segments[0]?.codes[0] ?? 255;
    const low = Math.max(1, first - 25);
    return { ...slot, segments: [{ ...fresh, codes: [low, first - 1] }, ...slot.segments] };
  }
  if (!slot.map) return slot;
  const { component, changes } = slot;
  const rest: Segment = { map: slot.map, component, changes, codes: [0, 229], above: null };
  return { ...EMPTY, if_missing: slot.if_missing, constant: null, segments: [fresh, rest] };
}

/** Change one of the maps that share a channel. */
export function withSegment(slot: Slot, n: number, part: Partial<Segment>): Slot {
  const segments = slot.segments.map((one, i) => (i === n ? { ...one, ...part } : one));
  return { ...slot, segments };
}

/** Remove one of them; the last one gets the whole channel. */
export function withoutSegment(slot: Slot, n: number): Slot {
  const left = slot.segments.filter((_, i) => i !== n);
  const [only] = left;
  if (!only) return EMPTY;
  if (left.length > 1) {
    const last = left.length - 1;
    return withSegment({ ...slot, segments: left }, last, { above: null });
  }
  const { map, component, changes } = only;
  return { ...slot, map, component, changes, constant: null, segments: [] };
}

/** A free id made from a title. */
export function freeId(title: string, taken: string[]): string {
  const plain = title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 56);
  let id = plain || "target";
  for (let n = 2; taken.includes(id); n++) id = `${plain || "target"}-${n}`;
  return id;
}

/** Rename a target; its id, which names its folder, follows if it was made from the title. */
export function titled(preset: TargetPreset, title: string, taken: string[]): TargetPreset {
  const followed = preset.id === freeId(preset.title, taken);
  return { ...preset, title, id: followed ? freeId(title, taken) : preset.id };
}
