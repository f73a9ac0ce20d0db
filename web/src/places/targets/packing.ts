// What the packing grid does to a target's preset: pure changes, each giving a new one.
import type { KindRead, MapKind, Schemas, TargetPreset } from "@/api/client";

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
 * Rows of the kinds, in the vocabulary's order: each component of a color or a normal its own, and
 * a color's luminance where that is asked for.
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

/** The maps that a preset takes. */
export function kindsIn(preset: TargetPreset): Set<MapKind> {
  const found = new Set<MapKind>();
  for (const file of preset.files)
    for (const slot of Object.values(file.channels)) {
      if (slot.map) found.add(slot.map);
      for (const segment of slot.segments) found.add(segment.map);
    }
  return found;
}

/** Does a channel of the preset hold a color's luminance? */
export function takesLuminance(preset: TargetPreset, kind: MapKind): boolean {
  const slots = preset.files.flatMap((file) => Object.values(file.channels));
  return slots
    .flatMap((slot) => [slot, ...slot.segments])
    .some((one) => one.map === kind && one.component === "l");
}

export type Hold = "none" | "plain" | "changed" | "part";

/** How a slot holds a row's component: not, as it is, changed, or in a range of codes. */
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

/** A channel set; the channels that a file must have beside it are filled with 0. */
export function withSlot(preset: TargetPreset, n: number, letter: Letter, slot: Slot) {
  return withFile(preset, n, (file) => {
    const channels: FileSpec["channels"] = { ...file.channels, [letter]: slot };
    if (letter !== "R") for (const one of ["R", "G", "B"] as const) channels[one] ??= EMPTY;
    return { ...file, channels };
  });
}

/** Connect a map's component to a channel. A color's opacity or data never stops a delivery. */
export function connected(preset: TargetPreset, n: number, letter: Letter, row: Row) {
  const before = preset.files[n]?.channels[letter];
  const if_missing = before?.if_missing ?? (letter === "A" ? "omit" : "derive");
  const { kind: map, component } = row;
  return withSlot(preset, n, letter, { ...EMPTY, constant: null, map, component, if_missing });
}

/** Take away a channel: an alpha, or what makes a file of one channel colored. */
export function withoutChannel(preset: TargetPreset, n: number, letter: Letter) {
  return withFile(preset, n, (file) => {
    const { A, ...color } = file.channels;
    if (letter === "A") return { ...file, channels: color };
    const { R } = file.channels;
    return R && letter !== "R" ? { ...file, channels: { R } } : file;
  });
}

/** Two channels of a file change places. */
export function swapped(preset: TargetPreset, n: number, one: Letter, other: Letter) {
  return withFile(preset, n, (file) => {
    const [a, b] = [file.channels[one], file.channels[other]];
    if (!a || !b) return file;
    return { ...file, channels: { ...file.channels, [one]: b, [other]: a } };
  });
}

/** A file's name, format, depth or encoding changed. */
export function withFacts(preset: TargetPreset, n: number, part: Partial<FileSpec>) {
  return withFile(preset, n, (file) => ({ ...file, ...part }));
}

/** One more file: like the last one, under a suffix that is free, with one empty channel. */
export function withNewFile(preset: TargetPreset): TargetPreset {
  const last = preset.files.at(-1);
  const taken = new Set(preset.files.map((file) => file.suffix));
  let suffix = "new";
  for (let n = 2; taken.has(suffix); n++) suffix = `new${n}`;
  const file: FileSpec = {
    name: last?.name.includes("{suffix}") ? last.name : "{set}_{suffix}",
    suffix,
    format: last?.format ?? "png",
    bits: 8,
    encoding: "linear",
    channels: { R: EMPTY },
  };
  return { ...preset, files: [...preset.files, file] };
}

export function withoutFile(preset: TargetPreset, n: number): TargetPreset {
  return { ...preset, files: preset.files.filter((_, i) => i !== n) };
}

/** An id from any words, free among those that are taken. */
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
