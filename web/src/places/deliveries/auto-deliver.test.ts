import { expect, test } from "vitest";
import { AutoDeliverRule, withAutoDeliver } from "./auto-deliver";

test("a cell is kept by itself, by its column, or by the project once it was delivered", () => {
  const kept = new AutoDeliverRule([
    { set_id: 3, target_id: "orm" },
    { set_id: null, target_id: "plain" },
  ]);
  expect([kept.whole, kept.column("plain"), kept.column("orm")]).toEqual([false, true, false]);
  expect([kept.cell(3, "orm"), kept.cell(3, "plain"), kept.cell(4, "orm")]).toEqual([
    true,
    false,
    false,
  ]);
  expect(kept.keeps(4, "plain", false)).toBe(true);
  expect(kept.keeps(3, "orm", false)).toBe(true);
  expect(kept.keeps(4, "orm", true)).toBe(false);
  const all = new AutoDeliverRule([{ set_id: null, target_id: null }]);
  expect([all.whole, all.keeps(4, "orm", true), all.keeps(4, "orm", false)]).toEqual([
    true,
    true,
    false,
  ]);
});

test("what is kept is shown before the server has answered", () => {
  const cell = { set_id: 3, target_id: "orm" };
  const column = { set_id: null, target_id: "plain" };
  expect(withAutoDeliver([], { cells: [cell, { target_id: "plain" }], kept: true })).toEqual([
    cell,
    column,
  ]);
  expect(withAutoDeliver([cell, column], { cells: [cell], kept: true })).toEqual([column, cell]);
  expect(withAutoDeliver([cell, column], { cells: [{ target_id: "plain" }], kept: false })).toEqual(
    [cell],
  );
});
