import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Failure, type Home, RETRIES, SaveQueue } from "./save-queue";

interface Value {
  a: number;
  b: number;
}
interface Saved {
  version: number;
  value: Value;
}
class Fault extends Error {
  constructor(readonly kind: Failure["kind"]) {
    super(kind);
  }
}

/** A server with a history, whose answers can be held back, lost or refused. */
function server(first: Value = { a: 0, b: 0 }) {
  let history = [first];
  let at = 0;
  let version = 1;
  const texts = new Map<string, string>();
  const world = {
    faults: [] as (Fault | "lost" | null)[],
    hold: null as Promise<void> | null,
    saves: [] as Value[],
    now: (): Saved => ({ version, value: history[at] ?? first }),
    elsewhere: (value: Value) => {
      history.push(value);
      at = history.length - 1;
      version += 1;
    },
    texts,
    home: {} as Home<Value, Saved>,
  };
  async function answer(base: Saved, act: () => void): Promise<Saved> {
    if (world.hold) await world.hold;
    const fault = world.faults.shift() ?? null;
    if (fault instanceof Fault) throw fault;
    if (base.version !== version) throw new Fault("conflict");
    act();
    version += 1;
    if (fault === "lost") throw new Fault("away");
    return world.now();
  }
  world.home = {
    save: (value, base) =>
      answer(base, () => {
        world.saves.push(value);
        history = [...history.slice(0, at + 1), value];
        at += 1;
      }),
    step: (to, base) => {
      const next = at + (to === "undo" ? -1 : 1);
      if (next < 0 || next >= history.length) return Promise.reject(new Fault("conflict"));
      return answer(base, () => {
        at = next;
      });
    },
    read: async () => world.now(),
    valueOf: (saved) => saved.value,
    versionOf: (saved) => saved.version,
    failure: (error) => ({ kind: (error as Fault).kind, why: (error as Fault).message }),
    shelf: {
      get: () => texts.get("x") ?? null,
      put: (text) => (text === null ? texts.delete("x") : texts.set("x", text)),
    },
  };
  return world;
}

const set = (change: Partial<Value>) => (value: Value) => ({ ...value, ...change });
const settled = () => vi.advanceTimersByTimeAsync(0);

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

describe("the save queue", () => {
  it("says saved only when it is", async () => {
    const world = server();
    const queue = new SaveQueue(world.now(), world.home);
    const seen: string[] = [];
    queue.subscribe(() => seen.push(queue.snapshot().saving.state));
    queue.commit(set({ a: 1 }));
    expect(queue.snapshot().saving.state).toBe("saving");
    await settled();
    expect(queue.snapshot().saving.state).toBe("saved");
    expect(world.now().value).toEqual({ a: 1, b: 0 });
    expect(seen.indexOf("saved")).toBe(seen.length - 1);
  });

  it("tries again while the server is away, and says why", async () => {
    const world = server();
    world.faults = [new Fault("away"), new Fault("away"), new Fault("away")];
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 2 }));
    await settled();
    expect(queue.snapshot().saving).toEqual({ state: "waiting", why: "away" });
    queue.commit(set({ b: 3 })); // typed while it is away
    await vi.advanceTimersByTimeAsync(RETRIES[0] + RETRIES[1] + RETRIES[2] + 50);
    expect(queue.snapshot().saving.state).toBe("saved");
    expect(world.now().value).toEqual({ a: 2, b: 3 });
  });

  it("knows its own save whose answer was lost", async () => {
    const world = server();
    world.faults = ["lost"];
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 4 }));
    await vi.advanceTimersByTimeAsync(RETRIES[0] + 10);
    expect(queue.snapshot().saving.state).toBe("saved");
    expect(world.saves).toHaveLength(1);
  });

  it("keeps what is typed while an undo runs", async () => {
    const world = server();
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 1 }));
    await settled();
    let go = () => {};
    world.hold = new Promise((done) => {
      go = done;
    });
    queue.step("undo");
    await settled();
    queue.commit(set({ b: 7 }));
    queue.move(set({ b: 8 }));
    expect(queue.snapshot().value).toEqual({ a: 1, b: 8 });
    world.hold = null;
    go();
    await settled();
    expect(queue.snapshot().value).toEqual({ a: 0, b: 8 });
    expect(queue.snapshot().saving.state).toBe("saved");
    expect(world.now().value.a).toBe(0);
    queue.commit((value) => value); // released: the value of the drag counts
    await settled();
    expect(world.now().value).toEqual({ a: 0, b: 8 });
  });

  it("loses nothing that is settled while a save is under way", async () => {
    const world = server();
    let go = () => {};
    world.hold = new Promise((done) => {
      go = done;
    });
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 1 }));
    await settled();
    queue.commit(set({ b: 2 }));
    queue.commit(set({ b: 3 }));
    world.hold = null;
    go();
    await settled();
    expect(world.now().value).toEqual({ a: 1, b: 3 });
    expect(queue.snapshot()).toEqual({ value: { a: 1, b: 3 }, saving: { state: "saved" } });
    expect(world.saves).toHaveLength(2); // what waited went as one
  });

  it.each([
    [[true, true], true],
    [[true, false], false],
    [[false, true], false],
  ])("joins waiting changes that amend %s as %s", async (amends, joined) => {
    const world = server();
    const save = vi.spyOn(world.home, "save");
    let go = () => {};
    world.hold = new Promise((done) => {
      go = done;
    });
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 1 }));
    await settled();
    for (const [n, one] of amends.entries()) queue.commit(set({ b: n }), one);
    world.hold = null;
    go();
    await settled();
    expect(save.mock.calls.map((call) => call[2])).toEqual([false, joined]);
  });

  it("carries out save, undo and save in their order", async () => {
    const world = server();
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 1 }));
    queue.commit(set({ b: 1 }));
    queue.step("undo");
    queue.commit(set({ a: 9 }));
    await settled();
    expect(world.now().value).toEqual({ a: 9, b: 0 });
    expect(queue.snapshot().value).toEqual({ a: 9, b: 0 });
    expect(queue.isSaved).toBe(true);
  });

  it("offers mine and theirs after a conflict", async () => {
    for (const choice of ["mine", "theirs"] as const) {
      const world = server();
      const queue = new SaveQueue(world.now(), world.home);
      world.elsewhere({ a: 50, b: 50 });
      queue.commit(set({ a: 1 }));
      await settled();
      expect(queue.snapshot().saving.state).toBe("conflict");
      queue.commit(set({ b: 2 })); // the drag continues
      await settled();
      expect(queue.snapshot().saving.state).toBe("conflict");
      expect(world.now().value).toEqual({ a: 50, b: 50 });
      if (choice === "mine") queue.takeMine();
      else queue.takeTheirs();
      await settled();
      const due = choice === "mine" ? { a: 1, b: 2 } : { a: 50, b: 50 };
      expect(queue.snapshot()).toEqual({ value: due, saving: { state: "saved" } });
      expect(world.now().value).toEqual(due);
    }
  });

  it("stays unsaved after a refusal until something is accepted", async () => {
    const world = server();
    world.faults = [new Fault("refused")];
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: -1 }));
    await settled();
    expect(queue.snapshot()).toEqual({
      value: { a: -1, b: 0 },
      saving: { state: "refused", why: "refused" },
    });
    queue.commit(set({ a: 3 }));
    await settled();
    expect(queue.snapshot().saving.state).toBe("saved");
    world.faults = [new Fault("refused")];
    queue.commit(set({ a: -1 }));
    await settled();
    queue.takeTheirs();
    expect(queue.snapshot()).toEqual({ value: { a: 3, b: 0 }, saving: { state: "saved" } });
  });

  it("saves after a reload what was not saved before it", async () => {
    const world = server();
    world.faults = Array.from({ length: 9 }, () => new Fault("away"));
    new SaveQueue(world.now(), world.home).commit(set({ a: 6 }));
    await settled();
    world.faults = [];
    const after = new SaveQueue(world.now(), world.home);
    await settled();
    expect(after.snapshot()).toEqual({ value: { a: 6, b: 0 }, saving: { state: "saved" } });
    expect(world.now().value).toEqual({ a: 6, b: 0 });
    expect(world.texts.size).toBe(0);
  });

  it("knows a save that was answered after the page went as its own", async () => {
    for (const readsFirst of [true, false]) {
      const world = server();
      world.hold = new Promise(() => {});
      const before = new SaveQueue(world.now(), world.home);
      before.commit(set({ a: 6 })); // under way when the page goes
      await settled();
      before.commit(set({ b: 8 }));
      world.hold = null;
      const read = world.now();
      world.elsewhere({ a: 6, b: 0 }); // it arrived
      const after = new SaveQueue(readsFirst ? read : world.now(), world.home);
      await settled();
      expect(after.snapshot()).toEqual({ value: { a: 6, b: 8 }, saving: { state: "saved" } });
      expect(world.now().value).toEqual({ a: 6, b: 8 });
    }
  });

  it("goes on when an earlier value was saved though its answer was lost", async () => {
    const world = server();
    world.faults = ["lost"];
    const queue = new SaveQueue(world.now(), world.home);
    queue.commit(set({ a: 4 }));
    await settled();
    queue.commit(set({ a: 5 })); // the drag continues while the server seems unreachable
    await vi.advanceTimersByTimeAsync(RETRIES[0] + 10);
    expect(queue.snapshot()).toEqual({ value: { a: 5, b: 0 }, saving: { state: "saved" } });
    expect(world.now().value).toEqual({ a: 5, b: 0 });
  });

  it("asks after a reload when it was changed elsewhere meanwhile", async () => {
    const world = server();
    world.faults = [new Fault("away")];
    new SaveQueue(world.now(), world.home).commit(set({ a: 6 }));
    await settled();
    vi.clearAllTimers();
    world.elsewhere({ a: 1, b: 1 });
    const after = new SaveQueue(world.now(), world.home);
    expect(after.snapshot().saving.state).toBe("conflict");
    expect(after.snapshot().value).toEqual({ a: 6, b: 0 });
  });

  it("takes what arrives only when nothing of its own waits", async () => {
    const world = server();
    const queue = new SaveQueue(world.now(), world.home);
    world.elsewhere({ a: 5, b: 5 });
    queue.arrived(world.now());
    expect(queue.snapshot().value).toEqual({ a: 5, b: 5 });
    queue.step("redo"); // there is nothing to redo
    await settled();
    expect(queue.snapshot().saving.state).toBe("saved");
  });
});
