// Filtering, sorting and grouping of sets.
import type { TrayRow } from "@/api/client";

/** Filter keys before a colon, with descriptions. */
export const terms = {
  tag: "sets with this tag",
  card: "sets with this source card",
  has: "sets that have this map",
  lacks: "sets without this map",
  imported: "sets with this map imported",
  derived: "sets with this map derived",
  check: "sets with this checklist finding; check:any for any finding",
  is: "stale, delivered or new, for the displayed targets",
} as const;

type Term = keyof typeof terms;
export type Wanted = { term: Term | "word"; value: string };

/** Parts of a search text; a value with spaces is quoted: card:"Field kit". */
export function parsed(text: string): Wanted[] {
  return [...text.matchAll(/(?:(\w+):)?(?:"([^"]*)"?|(\S+))/g)].flatMap((found): Wanted[] => {
    const value = (found[2] ?? found[3] ?? "").toLowerCase();
    const term = found[1]?.toLowerCase();
    if (term === undefined) {
      const begun = value.endsWith(":") && value.slice(0, -1) in terms; // incomplete input
      return value && !begun ? [{ term: "word", value }] : [];
    }
    if (term in terms) return value ? [{ term: term as Term, value }] : [];
    return [{ term: "word", value: found[0].toLowerCase() }];
  });
}

/** Text form of a filter. */
export function typed(term: Term, value: string): string {
  return `${term}:${/\s/.test(value) ? `"${value}"` : value}`;
}

/** Delivery states of a set for the displayed targets. */
export function standing(row: TrayRow, shown: readonly string[]): "stale" | "delivered" | "new" {
  const states = shown.flatMap((id) => row.delivered[id] ?? []);
  if (states.includes("stale")) return "stale";
  return states.length > 0 ? "delivered" : "new";
}

/** Text form of a map name: "base color", "base_color", "normal". */
function kindIn(row: TrayRow, name: string, how?: string): boolean {
  const wanted = name.replaceAll(/[\s-]+/g, "_");
  return Object.entries(row.maps).some(
    ([kind, made]) => kind.includes(wanted) && (how === undefined || made === how),
  );
}

function fits(row: TrayRow, { term, value }: Wanted, shown: readonly string[]): boolean {
  const same = (text: string) => text.toLowerCase().includes(value);
  switch (term) {
    case "tag":
      return row.tags.some((tag) => tag.toLowerCase() === value);
    case "card":
      return row.card?.toLowerCase() === value;
    case "has":
      return kindIn(row, value);
    case "lacks":
      return !kindIn(row, value);
    case "imported":
    case "derived":
      return kindIn(row, value, term);
    case "check":
      return row.findings.some((one) => value === "any" || one.rule === value.replaceAll(" ", "_"));
    case "is":
      return standing(row, shown) === value;
    case "word":
      return [row.name, row.card ?? "", row.notes, ...row.tags].some(same);
  }
}

/** Rows that match the whole search text. */
export function filterRows(rows: TrayRow[], text: string, shown: readonly string[]): TrayRow[] {
  const wanted = parsed(text);
  if (wanted.length === 0) return rows;
  return rows.filter((row) => wanted.every((one) => fits(row, one, shown)));
}

export const orders = [
  { value: "name", label: "name" },
  { value: "changed", label: "last changed" },
  { value: "standing", label: "stale first" },
] as const;
export type Order = (typeof orders)[number]["value"];

const RANK = { stale: 0, new: 1, delivered: 2 };
const natural = new Intl.Collator(undefined, { numeric: true, sensitivity: "base" });

/** Sort rows; equal rows by name. */
export function ordered(rows: TrayRow[], order: Order, shown: readonly string[]): TrayRow[] {
  const byName = (a: TrayRow, b: TrayRow) => natural.compare(a.name, b.name);
  const compare = {
    name: byName,
    changed: (a: TrayRow, b: TrayRow) => b.updated_at.localeCompare(a.updated_at) || byName(a, b),
    standing: (a: TrayRow, b: TrayRow) =>
      RANK[standing(a, shown)] - RANK[standing(b, shown)] || byName(a, b),
  }[order];
  return [...rows].sort(compare);
}

export const groupings = [
  { value: "none", label: "none" },
  { value: "tag", label: "tag" },
  { value: "card", label: "source card" },
  { value: "letters", label: "name prefix" },
] as const;
export type Grouping = (typeof groupings)[number]["value"];

export interface Group {
  title: string;
  rows: TrayRow[];
}

/** Groups of rows in displayed order; rows without a group are last. */
export function grouped(rows: TrayRow[], by: Grouping): Group[] {
  if (by === "none") return [{ title: "", rows }];
  const found = new Map<string, TrayRow[]>();
  for (const row of rows) {
    const title = titleOf(row, by);
    const some = found.get(title);
    if (some) some.push(row);
    else found.set(title, [row]);
  }
  return [...found]
    .sort(([a], [b]) => Number(a === "") - Number(b === "") || natural.compare(a, b))
    .map(([title, some]) => ({ title: title || nothing[by], rows: some }));
}

const nothing = { tag: "no tag", card: "no source card", letters: "" };

function titleOf(row: TrayRow, by: Exclude<Grouping, "none">): string {
  if (by === "tag") return row.tags[0] ?? "";
  if (by === "card") return row.card ?? "";
  return row.name.split(/[_\-.]|(?<=\D)(?=\d)/)[0] ?? "";
}
