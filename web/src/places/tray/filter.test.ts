import { describe, expect, it } from "vitest";
import type { TrayRow } from "@/api/client";
import { filterRows, grouped, ordered, parsed, typed } from "./filter";

function row(name: string, more: Partial<TrayRow> = {}): TrayRow {
  return {
    id: name.length,
    version: 1,
    name,
    tags: [],
    notes: "",
    maps: { base_color: "imported", normal: "derived" },
    card: null,
    updated_at: "2026-01-01T00:00:00Z",
    deleted_at: null,
    delivered: {},
    checked: true,
    findings: [],
    ...more,
  };
}

const names = (rows: TrayRow[]) => rows.map((one) => one.name);
const rows = [
  row("wall_10", { tags: ["Roof"], delivered: { orm: "stale", web: "delivered" } }),
  row("wall_9", { card: "Field kit", notes: "wet" }),
  row("floor", {
    maps: { height: "imported" },
    delivered: { orm: "delivered" },
    findings: [{ rule: "not_tileable", kind: "height", weight: "info" }],
  }),
];
const found = (text: string) => names(filterRows(rows, text, ["orm"]));

describe("narrowing", () => {
  it("takes words, terms, and values in quotes", () => {
    expect(parsed('wall card:"Field kit" tag: odd:thing')).toEqual([
      { term: "word", value: "wall" },
      { term: "card", value: "field kit" },
      { term: "word", value: "odd:thing" },
    ]);
    expect(typed("card", "Field kit")).toBe('card:"Field kit"');
  });

  it("finds by what is open on the checklist", () => {
    expect(found("check:any")).toEqual(["floor"]);
    expect(found('check:"not tileable"')).toEqual(["floor"]);
    expect(found("check:not_tileable wall")).toEqual([]);
    expect(found("check:mixed")).toEqual([]);
  });

  it("finds by name, note, tag, card, map and standing, all together", () => {
    expect(found("WALL")).toEqual(["wall_10", "wall_9"]);
    expect(found("wet")).toEqual(["wall_9"]);
    expect(found("tag:roof")).toEqual(["wall_10"]);
    expect(found('card:"field kit" wall')).toEqual(["wall_9"]);
    expect(found("lacks:normal")).toEqual(["floor"]);
    expect(found('has:"base color"')).toEqual(["wall_10", "wall_9"]);
    expect(found("imported:normal")).toEqual([]);
    expect(found("is:stale")).toEqual(["wall_10"]);
    expect(found("is:new")).toEqual(["wall_9"]);
    expect(found("is:delivered tag:roof")).toEqual([]);
  });

  it("counts only the targets that are shown", () => {
    expect(names(filterRows(rows, "is:delivered", ["web"]))).toEqual(["wall_10"]);
  });
});

describe("order and groups", () => {
  it("puts numbers in names in their order, and what is stale first", () => {
    expect(names(ordered(rows, "name", []))).toEqual(["floor", "wall_9", "wall_10"]);
    expect(names(ordered(rows, "standing", ["orm"]))).toEqual(["wall_10", "wall_9", "floor"]);
    const later = row("later", { updated_at: "2026-02-01T00:00:00Z" });
    expect(names(ordered([...rows, later], "changed", []))[0]).toBe("later");
  });

  it("puts what belongs to no group last", () => {
    expect(grouped(rows, "tag").map((one) => [one.title, names(one.rows)])).toEqual([
      ["Roof", ["wall_10"]],
      ["no tag", ["wall_9", "floor"]],
    ]);
    expect(grouped(rows, "letters").map((one) => one.title)).toEqual(["floor", "wall"]);
  });
});
