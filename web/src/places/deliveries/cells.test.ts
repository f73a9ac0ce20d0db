import { act, renderHook } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { BoardCellRead, TrayRow } from "@/api/client";
import { cellOf, keyOf, partsOf, rectangle, useSelectedCells } from "./cells";

// @vitest-environment jsdom
const cell = (more: Partial<BoardCellRead>): BoardCellRead => ({
  set_id: 1,
  target_id: "a",
  state: "delivered",
  delivery_id: 7,
  progress: 0,
  error: null,
  ...more,
});
const fine = { findings: [] };
const lying = (disk_state: "intact" | "replaced") => ({
  set_id: 1,
  target_id: "a",
  disk_state,
  text: "by 9",
});

describe("a cell", () => {
  it("says what is under way before what was", () => {
    expect(cellOf(undefined, undefined, fine).word).toBe("not delivered");
    expect(cellOf(cell({}), undefined, fine).word).toBe("up to date");
    expect(cellOf(cell({ state: "running", progress: 0.404 }), lying("replaced"), fine).word).toBe(
      "40 %",
    );
    expect(cellOf(cell({ state: "failed", error: "no disk" }), undefined, fine).why).toBe(
      "no disk",
    );
    expect(cellOf(cell({}), lying("replaced"), fine)).toMatchObject({
      state: "replaced",
      why: "by 9",
    });
    expect(cellOf(cell({ state: "stale" }), lying("intact"), fine).state).toBe("stale");
  });

  it("says what will be wrong where it would be delivered now", () => {
    const turned = {
      findings: [
        { rule: "vector_length", kind: "normal", weight: "info" },
        { rule: "green_direction", kind: "normal", weight: "error" },
      ],
    } as Pick<TrayRow, "findings">;
    const stale = cell({ state: "stale" });
    expect(cellOf(undefined, undefined, turned).word).toBe("errors");
    expect(cellOf(stale, undefined, turned)).toMatchObject({
      state: "wrong",
      word: "stale, errors",
      delivery: 7,
    });
    expect(cellOf(stale, undefined, turned).why).toContain("green direction");
    expect(cellOf(stale, undefined, turned).why).not.toContain("off length");
    expect(cellOf(cell({}), undefined, turned).state).toBe("delivered");
  });

  it("says how many of its files are stale, once they are known", () => {
    const stale = cell({ state: "stale" });
    const files = (differ: number, of: number) => ({ set_id: 1, target_id: "a", differ, of });
    expect(cellOf(stale, undefined, fine).word).toBe("stale");
    expect(cellOf(stale, undefined, fine, files(2, 5))).toMatchObject({
      word: "stale, 2 files",
      why: "Changed since the last delivery; 2 of 5 files would change",
    });
    expect(cellOf(stale, undefined, fine, files(1, 1))).toMatchObject({
      word: "stale, 1 file",
      why: "Changed since the last delivery; its file would change",
    });
    expect(cellOf(stale, undefined, fine, files(0, 5)).word).toBe("stale, 0 files");
    // The comparison made before the new delivery is outdated.
    expect(cellOf(cell({}), undefined, fine, files(2, 5)).word).toBe("up to date");
  });

  it("is known by set and target, whatever signs the target has", () => {
    expect(partsOf(keyOf(12, "a:b"))).toEqual({ set_id: 12, target_id: "a:b" });
  });
});

describe("choosing", () => {
  const rows = [3, 1, 2];
  const targets = ["a", "b", "c"];

  it("takes the rectangle between two cells, from either corner", () => {
    const all = ["3:a", "3:b", "1:a", "1:b"];
    expect(rectangle(rows, targets, "3:a", "1:b")).toEqual(all);
    expect(rectangle(rows, targets, "1:b", "3:a")).toEqual(all);
    expect(rectangle(rows, targets, "9:a", "1:b")).toEqual([]);
  });

  it("extends from the last cell, and turns a column on and off", () => {
    const { result } = renderHook(() => useSelectedCells(rows, targets, () => ["2:c"]));
    act(() => result.current.choose("3:a", false));
    act(() => result.current.choose("1:b", true));
    expect([...result.current.keys].sort()).toEqual(["1:a", "1:b", "2:c", "3:a", "3:b"]);
    act(() => result.current.toggle(["1:a", "3:a", "2:a"]));
    expect(result.current.keys.has("2:a")).toBe(true);
    act(() => result.current.toggle(["1:a", "3:a", "2:a"]));
    expect([...result.current.keys].sort()).toEqual(["1:b", "2:c", "3:b"]);
  });
});
