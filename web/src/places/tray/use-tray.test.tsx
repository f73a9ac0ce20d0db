import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { beforeEach, describe, expect, it } from "vitest";
import type { TrayRow } from "@/api/client";
import { columnsOf, useArrangement } from "./use-tray";

// @vitest-environment jsdom
beforeEach(() => localStorage.clear());

const at = (address: string) => ({
  wrapper: ({ children }: { children: ReactNode }) => (
    <MemoryRouter initialEntries={[address]}>{children}</MemoryRouter>
  ),
});
const both = () => ({ ...useArrangement("row"), search: useLocation().search });

describe("how the Tray is arranged", () => {
  it("finds by the address, and leaves what else stands in it", () => {
    const { result } = renderHook(both, at("/row/tray?find=oak&more=1"));
    expect(result.current.arrangement).toEqual({ find: "oak", order: "name", grouping: "none" });
    act(() => result.current.arrange({ find: "wet oak" }));
    expect(result.current.arrangement.find).toBe("wet oak");
    expect(result.current.search).toBe("?find=wet+oak&more=1");
    act(() => result.current.arrange({ find: "" }));
    expect(result.current.search).toBe("?more=1");
  });

  it("remembers order and groups for each project, and forgets what it does not know", () => {
    const first = renderHook(both, at("/row/tray"));
    act(() => first.result.current.arrange({ order: "changed", grouping: "tag" }));
    const again = renderHook(both, at("/row/tray"));
    expect(again.result.current.arrangement).toMatchObject({ order: "changed", grouping: "tag" });
    localStorage.setItem("copper-sieve/last/order/row", "by the moon");
    const later = renderHook(both, at("/row/tray"));
    expect(later.result.current.arrangement.order).toBe("name");
    const other = renderHook(() => useArrangement("other"), at("/other/tray"));
    expect(other.result.current.arrangement.grouping).toBe("none");
  });
});

it("shows a column for each map that some set has", () => {
  const row = (...kinds: string[]) =>
    ({ maps: Object.fromEntries(kinds.map((kind) => [kind, {}])) }) as unknown as TrayRow;
  expect(columnsOf([row("base_color"), row("height", "base_color"), row()])).toEqual([
    "base_color",
    "height",
  ]);
});
