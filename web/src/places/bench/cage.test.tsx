// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, expect, it, vi } from "vitest";
import { stubResizeObserver } from "@/testing/resize-observer";
import { Cage } from "./cage";
import type { Change, Draft } from "./use-draft";

const world = vi.hoisted(() => ({ tells: (): unknown => null }));

vi.mock("@/api/client", () => ({
  api: { POST: () => Promise.resolve(null) },
  answer: () => Promise.resolve().then(() => world.tells()),
}));
beforeAll(stubResizeObserver);
afterEach(cleanup);

const link = {
  source: "a",
  material: null,
  uv_set: 0,
  high_poly: "b",
  cage: null,
  match_by_name: false,
};

function shown(match_by_uvs: boolean) {
  const draft = { maps: {}, model: { ...link, match_by_uvs } } as unknown as Draft;
  const changes: Change[] = [];
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Cage
        setId={1}
        draft={draft}
        moving={false}
        onMove={() => {}}
        onCommit={(change) => changes.push(change)}
      />
    </QueryClientProvider>,
  );
  return { draft, changes };
}

it("has a cage for rays, and tells how many of them miss", async () => {
  world.tells = () => ({ share: 0.2, cage: 0.01, widest: 0.1, picture: null });
  const { draft, changes } = shown(false);
  expect(await screen.findByText(/ray misses : increase the cage distance/)).toBeTruthy();
  expect(screen.getByText("Cage")).toBeTruthy();
  fireEvent.click(screen.getByRole("radio", { name: "UVs" }));
  expect(changes).toHaveLength(1);
  expect(changes[0]?.(draft).model?.match_by_uvs).toBe(true);
});

it("has none for UVs, and says why they do not do", async () => {
  world.tells = () => {
    throw new Error("the UVs of the high-poly model are not those of the simple one");
  };
  shown(true);
  expect(await screen.findByText(/are not those of the simple one/)).toBeTruthy();
  expect(screen.queryByText("Cage")).toBeNull();
});
