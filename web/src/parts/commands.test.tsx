// @vitest-environment jsdom
import { renderHook } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { allCommands, useCommands } from "./commands";

it("offers commands as long as their place is there, as they are now", () => {
  const [before, after] = [vi.fn(), vi.fn()];
  const { rerender, unmount } = renderHook(
    ({ run }) => useCommands([{ id: "undo", label: "Undo", keys: "Ctrl+Z", run }]),
    { initialProps: { run: before } },
  );
  expect(allCommands().map((one) => one.id)).toEqual(["undo"]);
  rerender({ run: after });
  allCommands()[0]?.run();
  expect(before).not.toHaveBeenCalled();
  expect(after).toHaveBeenCalledOnce();
  unmount();
  expect(allCommands()).toEqual([]);
});
