// Stub for a browser interface that jsdom lacks and Radix requires; call it before rendering.
import { vi } from "vitest";

export function stubResizeObserver() {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
}
