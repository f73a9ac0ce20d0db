import { QueryClient } from "@tanstack/react-query";
import { beforeEach, expect, it, vi } from "vitest";
import { addArrival } from "@/api/client";
import { queries } from "@/api/queries";
import { arrive, useUploads } from "./uploads";

vi.mock("@/api/client", async (original) => ({
  ...(await original<object>()),
  addArrival: vi.fn(),
}));
vi.mock("@/parts/notices", () => ({ notify: vi.fn() }));

const sent = vi.mocked(addArrival);
const file = (name: string, size = 10) => ({
  path: name,
  file: new File([new Uint8Array(size)], name),
});

function client(): QueryClient {
  const made = new QueryClient();
  made.setQueryData(queries.health().queryKey, { limits: { max_bytes: 1000 } } as never);
  return made;
}

beforeEach(() => sent.mockReset().mockResolvedValue({ refused: [] } as never));

it("begins with nothing on its way", () => {
  expect(useUploads.getState()).toEqual({ total: 0, done: 0, bytes: 0, refused: [] });
});

it("counts what was sent and tells each file that was refused, here or by the server", async () => {
  const inside = [{ name: "a.exe", message: "no picture" }];
  sent.mockImplementation(async (_project, _file, path) => {
    if (path === "away.png") throw new Error("the server is away");
    return { batch: "b", ids: [1], refused: path === "odd.zip" ? inside : [] };
  });
  const files = [file("a.png"), file("empty.png", 0), file("away.png"), file("odd.zip")];
  await arrive(client(), "row", files);
  const { total, done, refused } = useUploads.getState();
  expect([total, done]).toEqual([4, 4]);
  expect(sent).toHaveBeenCalledTimes(3); // an empty one is not sent
  expect(refused.map((one) => one.name).sort()).toEqual(["a.exe", "away.png", "empty.png"]);
});

it("adds to a drop that is under way, and begins anew after it", async () => {
  let go = () => {};
  const wait = new Promise<void>((done) => {
    go = done;
  });
  sent.mockImplementation(async () => {
    await wait;
    return { refused: [] } as never;
  });
  const first = arrive(client(), "row", [file("a.png"), file("b.png")]);
  const second = arrive(client(), "row", [file("c.png")]);
  expect(useUploads.getState()).toMatchObject({ total: 3, done: 0, refused: [] });
  go();
  await Promise.all([first, second]);
  expect(useUploads.getState()).toMatchObject({ total: 3, done: 3 });
  await arrive(client(), "row", [file("d.png")]);
  expect(useUploads.getState()).toMatchObject({ total: 1, done: 1 });
});
