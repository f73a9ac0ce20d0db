import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useAway } from "./away";

const asked = vi.fn<() => Promise<Partial<Response> | null>>();

beforeEach(() => {
  vi.useFakeTimers();
  asked.mockReset();
  vi.stubGlobal("fetch", asked);
  useAway.setState({ why: null, returns: 0 });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

it("asks each second until the server answers again, and counts that", async () => {
  asked.mockRejectedValueOnce(new Error("refused")).mockResolvedValue({ ok: true });
  useAway.getState().noticed("it went away");
  useAway.getState().noticed("it is away"); // it is asked for once, however many notice
  expect(useAway.getState().why).toBe("it is away");
  expect(asked).not.toHaveBeenCalled();
  await vi.advanceTimersByTimeAsync(1000);
  expect(asked).toHaveBeenCalledTimes(1);
  expect(useAway.getState()).toMatchObject({ why: "The server is unreachable.", returns: 0 });
  await vi.advanceTimersByTimeAsync(1000);
  expect(useAway.getState()).toMatchObject({ why: null, returns: 1 });
  await vi.advanceTimersByTimeAsync(5000);
  expect(asked).toHaveBeenCalledTimes(2); // nobody asks while all is well
});

it("tells in the server's words why it cannot work", async () => {
  const message = "the database is away: it is started again";
  asked
    .mockResolvedValueOnce({ ok: false, status: 503, json: async () => ({ detail: message }) })
    .mockResolvedValueOnce({ ok: false, status: 503, json: async () => ({}) })
    .mockResolvedValue({ ok: true });
  useAway.getState().noticed("first");
  await vi.advanceTimersByTimeAsync(1000);
  expect(useAway.getState().why).toBe(message);
  await vi.advanceTimersByTimeAsync(1000);
  expect(useAway.getState().why).toBe(message);
  await vi.advanceTimersByTimeAsync(1000);
  expect(useAway.getState().why).toBeNull();
});
