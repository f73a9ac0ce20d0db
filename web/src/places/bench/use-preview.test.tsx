// @vitest-environment jsdom
import { act, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { MapKind, SetRead } from "@/api/client";
import type { Draft } from "./use-draft";
import { usePreview } from "./use-preview";

interface Asked {
  kinds: MapKind[];
  contrast: number;
  side: number;
  answer: () => void;
  fail: (error: Error) => void;
}

const world = vi.hoisted(() => ({ asked: [] as unknown[] }));

vi.mock("@/lit/renderer", () => ({ drawsInSoftware: () => false }));
vi.mock("./picture-cache", () => ({
  PictureCache: class {
    keys = () => [];
    take = (one: unknown) => one;
  },
}));
vi.mock("@/api/client", async (original) => ({
  ...(await original<object>()),
  preview: (_: number, body: { kinds: MapKind[]; draft: Draft; longer_side: number }) =>
    new Promise((answered, failed) => {
      const height = body.draft.maps.height;
      const contrast =
        height?.how === "derived" ? Number(height.parameters?.contrast ?? 0) : Number.NaN;
      const maps = Object.fromEntries(
        body.kinds.map((kind) => [kind, { key: `${kind} ${contrast}`, codes: true }]),
      );
      const facts = { width: 64, height: 64, surface: {}, width_share: 1, guide: null };
      world.asked.push({
        kinds: body.kinds,
        contrast,
        side: body.longer_side,
        answer: () => answered({ maps, facts }),
        fail: failed,
      });
    }),
}));

const asked = () => world.asked as Asked[];
const set = {
  id: 1,
  width: 64,
  height: 64,
  surface: { tile_size: 1 },
  prepared_surface: { tile_size: 1 },
} as SetRead;

function draft(contrast: number): Draft {
  return {
    maps: {
      base_color: { how: "imported" },
      height: { how: "derived", operation: "x", parameters: { contrast } },
    },
    prepare: {},
    surface: { tile_size: 1 },
  } as unknown as Draft;
}

function shown(first: Draft, whole = false) {
  const seenSide = { current: 2000 };
  const props = (now: Draft, moving: boolean) => ({
    ...{ set, draft: now, moving, fullSide: 1024, focus: "height" as MapKind, seenSide },
    whole,
  });
  const { result, rerender } = renderHook((given: ReturnType<typeof props>) => usePreview(given), {
    initialProps: props(first, false),
  });
  return { result, move: (now: Draft, moving: boolean) => rerender(props(now, moving)) };
}

async function answered(n: number) {
  await waitFor(() => expect(asked().length).toBeGreaterThan(n));
  await act(async () => asked()[n]?.answer());
}

beforeEach(() => {
  world.asked.length = 0;
});
afterEach(() => {
  vi.clearAllTimers();
});

it("shows the chosen map first and alone, then all of them", async () => {
  const { result } = shown(draft(1));
  await answered(0);
  expect(asked()[0]?.kinds).toEqual(["height"]);
  expect(result.current.pictures.height?.key).toBe("height 1");
  expect(result.current.lit.height).toBeUndefined(); // the light waits for all of one draft
  await answered(1);
  expect(asked()[1]?.kinds).toEqual(["base_color", "height"]);
  await waitFor(() => expect(result.current.settled).toBe(true));
  expect(result.current.lit.height?.key).toBe("height 1");
});

it("asks next for the newest draft, and never shows one that is overtaken as the light", async () => {
  const { result, move } = shown(draft(1));
  await waitFor(() => expect(asked()).toHaveLength(1));
  move(draft(2), true);
  move(draft(3), true); // two steps of a hand while the first answer is under way
  await answered(0);
  await answered(1);
  expect(asked().map((one) => one.contrast)).not.toContain(2);
  expect(asked()[1]?.contrast).toBe(3);
  move(draft(4), false);
  for (let n = 2; n < 6 && !result.current.settled; n++) {
    await waitFor(() => expect(asked().length > n || result.current.settled).toBe(true));
    await act(async () => asked()[n]?.answer());
  }
  await waitFor(() => expect(result.current.settled).toBe(true));
  expect(result.current.pictures.height?.key).toBe("height 4");
  expect(result.current.lit.height?.key).toBe("height 4");
});

it("says what is wrong, and goes on with the next change", async () => {
  const { result, move } = shown(draft(1));
  await waitFor(() => expect(asked()).toHaveLength(1));
  await act(async () => asked()[0]?.fail(new Error("contrast: too much")));
  await waitFor(() => expect(result.current.error).toBe("contrast: too much"));
  move(draft(2), false);
  await answered(1);
  await answered(2);
  await waitFor(() => expect(result.current.error).toBeNull());
  expect(result.current.pictures.height?.key).toBe("height 2");
});

it("takes an answer that was given up for no error", async () => {
  const { result, move } = shown(draft(1));
  await answered(0);
  await waitFor(() => expect(asked()).toHaveLength(2));
  move(draft(2), true); // a drag continues while all of them are requested
  await act(async () => asked()[1]?.fail(new DOMException("given up", "AbortError")));
  await waitFor(() => expect(asked()[2]?.contrast).toBe(2));
  expect(result.current.error).toBeNull();
});

it("works all out small while a step of the preparation moves", async () => {
  const { move } = shown(draft(1), true);
  await answered(0);
  await answered(1);
  move(draft(2), true);
  await waitFor(() => expect(asked().length).toBeGreaterThan(2));
  expect(asked()[2]?.side).toBeLessThan(asked()[1]?.side ?? 0);
});
