// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useWaiting, waitingText } from "./use-waiting";

const world = vi.hoisted(() => ({ calls: [] as string[], tells: null as unknown }));

vi.mock("@/api/client", () => ({
  api: {
    GET: (address: string) => {
      world.calls.push(`GET ${address}`);
      return Promise.resolve(world.tells);
    },
    POST: (address: string) => {
      world.calls.push(`POST ${address}`);
      return Promise.resolve(null);
    },
  },
  answer: (call: Promise<unknown>) => call,
  done: (call: Promise<unknown>) => call,
}));

beforeEach(() => {
  vi.useFakeTimers();
  world.calls.length = 0;
  world.tells = { step: "deriving occlusion", share: 0.4, seconds: 2, seconds_left: 6.4 };
});
afterEach(() => vi.useRealTimers());

const later = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));

it("asks nothing within a second, then again and again until it is settled", async () => {
  const { result, rerender } = renderHook(({ settled }) => useWaiting("w", settled), {
    initialProps: { settled: false },
  });
  await later(900);
  expect(world.calls).toEqual([]);
  await later(200);
  expect(world.calls).toEqual(["GET /api/v1/previews/{window}"]);
  expect(result.current.underWay?.step).toBe("deriving occlusion");
  await later(500);
  expect(world.calls).toHaveLength(2);
  rerender({ settled: true });
  expect(result.current.underWay).toBeNull();
  await later(5000);
  expect(world.calls).toHaveLength(2);
});

it("is given up until a draft comes or it is asked for again", async () => {
  const { result } = renderHook(() => useWaiting("w", false));
  act(() => result.current.stop());
  expect(world.calls).toEqual(["POST /api/v1/previews/{window}/stop"]);
  expect([result.current.stopped, result.current.isStopped()]).toEqual([true, true]);
  const { round } = result.current;
  act(() => result.current.again());
  expect(result.current.round).toBe(round + 1);
  act(() => result.current.begun());
  expect([result.current.stopped, result.current.isStopped()]).toEqual([false, false]);
});

it("says what, how far and how long yet, where that is known", () => {
  const one = { step: "reading color", share: 0.25, seconds: 1 };
  expect(waitingText({ ...one, seconds_left: 6.4 })).toBe("reading color, 25 %, about 6 s left");
  expect(waitingText({ ...one, seconds_left: 1 })).toBe("reading color, 25 %, almost done");
  expect(waitingText({ ...one, seconds_left: null })).toBe("reading color, 25 %");
});
