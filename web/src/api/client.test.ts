import { afterEach, expect, it, vi } from "vitest";

const store = new Map<string, string>();
vi.stubGlobal("localStorage", { getItem: (key: string) => store.get(key) ?? null });
vi.stubGlobal("location", { origin: "http://127.0.0.1" });

import { preview } from "./client";

/** A preview as the server sends it: the length of a text, the text, the codes one after the other. */
function sent(maps: Record<string, number[]>): ArrayBuffer {
  const heads = Object.fromEntries(
    Object.entries(maps).map(([kind, codes]) => [
      kind,
      { key: `key of ${kind}`, width: codes.length, height: 1, channels: 1, bytes: codes.length },
    ]),
  );
  const text = new TextEncoder().encode(JSON.stringify({ maps: heads, width: 2, height: 1 }));
  const codes = Object.values(maps).flat();
  const data = new Uint8Array(4 + text.length + codes.length);
  new DataView(data.buffer).setUint32(0, text.length, true);
  data.set(text, 4);
  data.set(codes, 4 + text.length);
  return data.buffer;
}

afterEach(() => {
  vi.unstubAllGlobals();
});

it("gives each map its own codes, and none to those that are known already", async () => {
  const answer = sent({ height: [1, 2, 3], normal: [], roughness: [9, 8] });
  const Asked = class {
    constructor(readonly url: string) {}
  };
  vi.stubGlobal("Request", Asked);
  vi.stubGlobal("fetch", async () => new Response(answer));
  const { maps, facts } = await preview(7, { kinds: ["height"] });
  expect([...(maps.height?.codes ?? [])]).toEqual([1, 2, 3]);
  expect(maps.normal?.codes).toBeNull();
  expect([...(maps.roughness?.codes ?? [])]).toEqual([9, 8]);
  expect(facts.width).toBe(2);
});
