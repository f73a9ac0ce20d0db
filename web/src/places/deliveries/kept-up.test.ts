import { expect, test } from "vitest";
import { KeptUp } from "./kept-up";

test("a cell is kept by itself, by its column, or by the project once it was delivered", () => {
  const kept = new KeptUp([
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
  const all = new KeptUp([{ set_id: null, target_id: null }]);
  expect([all.whole, all.keeps(4, "orm", true), all.keeps(4, "orm", false)]).toEqual([
    true,
    true,
    false,
  ]);
});
