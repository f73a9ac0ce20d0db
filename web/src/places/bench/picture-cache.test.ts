import { beforeAll, describe, expect, it } from "vitest";
import type { PreviewedMap } from "@/api/client";
import { PictureCache } from "./picture-cache";

// What browsers have and the tests' environment does not.
beforeAll(() => {
  Object.assign(globalThis, {
    ImageData: class {
      data: Uint8ClampedArray;
      constructor(
        public width: number,
        public height: number,
      ) {
        this.data = new Uint8ClampedArray(width * height * 4);
      }
    },
    OffscreenCanvas: class {
      getContext = () => null;
    },
  });
});

const map = (key: string, codes: number[] | null, channels = 3, width = 2, height = 1) =>
  ({ key, width, height, channels, codes: codes && new Uint8Array(codes) }) as PreviewedMap;

describe("pictures by content key", () => {
  it("have their codes in order, opaque; a grey one in all three", () => {
    const store = new PictureCache();
    const color = store.take(map("a", [1, 2, 3, 250, 251, 252]));
    expect([...(color?.codes.data ?? [])]).toEqual([1, 2, 3, 255, 250, 251, 252, 255]);
    const grey = store.take(map("b", [7, 200], 1));
    expect([...(grey?.codes.data ?? [])]).toEqual([7, 7, 7, 255, 200, 200, 200, 255]);
  });

  it("are found again without their codes, and not made up where they are not known", () => {
    const store = new PictureCache();
    const first = store.take(map("a", [1, 2, 3, 4, 5, 6]));
    expect(store.take(map("a", null))).toBe(first);
    expect(store.take(map("b", null))).toBeUndefined();
    expect(store.keys()).toEqual(["a"]);
  });

  it("let go of what was used least recently, and never of the newest", () => {
    const store = new PictureCache();
    const side = 4096; // each uses nearly half of the cache
    const large = (key: string) => map(key, Array(3).fill(0), 3, side, 3840);
    store.take(large("a"));
    store.take(large("b"));
    expect(store.keys()).toEqual(["a", "b"]);
    store.take(map("a", null));
    store.take(large("c"));
    expect(store.keys()).toEqual(["a", "c"]);
    const huge = new PictureCache();
    huge.take(map("whole", Array(3).fill(0), 3, side, 2 * side));
    expect(huge.keys()).toEqual(["whole"]);
  });
});
