import { expect, test } from "vitest";
import { Budget } from "./budget";

/** A drag of that duration; the chosen map takes `alone` ms, or `beside` right after a refresh. */
function move(budget: Budget, milliseconds: number, alone: number, beside: number): number {
  let follows = 0;
  let since = Number.POSITIVE_INFINITY;
  budget.began(0);
  for (let at = 0, number = 1; at < milliseconds; at += 30, number++) {
    budget.asked(number, at);
    budget.shown(number, at + (since <= 30 ? beside : alone));
    since += 30;
    if (budget.isDue(at, at)) {
      budget.followed(at);
      follows += 1;
      since = 0;
    }
  }
  return follows;
}

test("where nothing waits, the light follows nearly every picture", () => {
  expect(move(new Budget(false), 6000, 20, 30)).toBeGreaterThan(80);
});

test("where the light makes the hand wait, it follows ever more seldom", () => {
  expect(move(new Budget(false), 20_000, 40, 300)).toBeLessThan(14);
});

test("where the processor draws, it begins seldom, and gains what costs nothing", () => {
  expect(move(new Budget(true), 3900, 20, 20)).toBe(0);
  expect(move(new Budget(true), 20_000, 20, 20)).toBeGreaterThan(50);
  expect(move(new Budget(true), 20_000, 20, 300)).toBeLessThan(6);
});

test("a hand that pauses is given all", () => {
  const budget = new Budget(true);
  budget.began(0);
  expect(budget.isDue(100, 50)).toBe(false);
  expect(budget.isDue(250, 50)).toBe(true);
});
