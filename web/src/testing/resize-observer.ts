// What jsdom lacks and Radix asks for: call it before a component is rendered in a test.
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
