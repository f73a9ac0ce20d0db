import { afterEach, beforeEach, expect, it, vi } from "vitest";

const asked = vi.hoisted(() => vi.fn());

vi.mock("./client", () => ({
  api: { GET: asked },
  answer: (call: Promise<unknown>) => call,
  ApiError: class extends Error {
    constructor(
      message: string,
      readonly code: string,
    ) {
      super(message);
    }
  },
}));

import { type JobRead, resultOf, timeLeft } from "./jobs";

const job = (more: Partial<JobRead>) =>
  ({ id: 4, kind: "model_import", title: "boat.glb", state: "running", ...more }) as JobRead;

beforeEach(() => {
  vi.useFakeTimers();
  asked.mockReset();
});
afterEach(() => {
  vi.useRealTimers();
});

/** Successive answers of the server about one job. */
function says(...answers: Partial<JobRead>[]) {
  for (const one of answers) asked.mockResolvedValueOnce(job(one));
}

it("waits for a job and gives what it made", async () => {
  says({ progress: 0.5 }, { state: "done", result: { model_id: 9 } as JobRead["result"] });
  const seen: (number | null)[] = [];
  const result = resultOf(job({ state: "queued" }), (now) => seen.push(now.progress));
  await vi.runAllTimersAsync();
  expect(await result).toEqual({ model_id: 9 });
  expect(seen[0]).toBe(0.5);
  expect(asked).toHaveBeenCalledTimes(2);
});

it("throws why a job failed, and that it was cancelled", async () => {
  const failed = job({
    state: "failed",
    error: "boat.glb is damaged",
    error_code: "damaged_model",
  });
  await expect(resultOf(failed)).rejects.toMatchObject({
    message: "boat.glb is damaged",
    code: "damaged_model",
  });
  await expect(resultOf(job({ state: "cancelled", error: null }))).rejects.toThrow(
    "The import of boat.glb was cancelled.",
  );
});

it("tells the remaining time in seconds, then in minutes", () => {
  expect(timeLeft({ seconds_left: 12.4 })).toBe("about 12 s left");
  expect(timeLeft({ seconds_left: 0.2 })).toBe("about 1 s left");
  expect(timeLeft({ seconds_left: 200 })).toBe("about 3 min left");
  expect(timeLeft({ seconds_left: null })).toBe("");
  expect(timeLeft(undefined)).toBe("");
});
