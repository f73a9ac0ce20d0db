import { expect, it } from "vitest";
import { rangeOf } from "./selection";

it("takes all rows between two, up and down, in the order that is shown", () => {
  expect(rangeOf([5, 3, 9, 1], 3, 1)).toEqual([3, 9, 1]);
  expect(rangeOf([5, 3, 9, 1], 9, 5)).toEqual([5, 3, 9]);
  expect(rangeOf([5, 3, 9, 1], 3, 3)).toEqual([3]);
  expect(rangeOf([5, 3], 7, 3)).toEqual([3]); // the first of them is gone
});
