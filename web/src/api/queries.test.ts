import type { Query } from "@tanstack/react-query";
import { expect, it } from "vitest";
import type { DeliveryRead } from "./client";
import { jobsOf } from "./jobs";
import { queries } from "./queries";

/** Every how many milliseconds is asked again, once this is the answer? */
function again(options: { refetchInterval?: unknown }, data: unknown): number | false | undefined {
  const every = options.refetchInterval as (query: Query) => number | false | undefined;
  return every({ state: { data } } as Query);
}

const delivery = (state: DeliveryRead["state"], parts = 1) =>
  ({ state, parts: Array.from({ length: parts }) }) as DeliveryRead;

it("asks for a delivery as long as it is under way, and no longer", () => {
  for (const state of ["queued", "running"] as const)
    expect(again(queries.delivery(1), delivery(state))).toBeGreaterThan(0);
  for (const state of ["done", "failed", "cancelled"] as const)
    expect(again(queries.delivery(1), delivery(state))).toBe(false);
});

it("asks for a delivery of very many parts less often", () => {
  const often = Number(again(queries.delivery(1), delivery("running")));
  expect(again(queries.delivery(1), delivery("running", 500))).toBeGreaterThan(2 * often);
});

it("asks for what is under way often while something is, and goes on asking when nothing is", () => {
  const busy = again(jobsOf("p"), [{ state: "running" }]);
  const calm = again(jobsOf("p"), []);
  expect(busy).toBeLessThanOrEqual(500);
  expect(calm).toBeGreaterThan(Number(busy)); // somebody else may deliver
  expect(again(jobsOf("p"), undefined)).toBe(calm);
});

it("asks for Intake while files wait to be recognized", () => {
  expect(again(queries.intake("p", false), { waiting: 2, rows: [1] })).toBeGreaterThan(0);
  expect(again(queries.intake("p", false), { waiting: 0, rows: [1] })).toBe(false);
});
