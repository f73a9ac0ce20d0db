// Saves edits one after the other without loss: a failed save is retried, a rejected or conflicting
// one is reported, and unsaved changes are kept in the browser across a reload.

export type Change<T> = (value: T) => T;

export type Saving =
  | { state: "saved" }
  | { state: "saving" }
  /** Not saved: the server or its database can't be reached; the save is retried automatically. */
  | { state: "waiting"; why: string }
  /** Not saved: the server rejects the value. */
  | { state: "refused"; why: string }
  /** Not saved: another client changed it. */
  | { state: "conflict"; why: string };

/** Classification of an error. */
export interface Failure {
  kind: "away" | "conflict" | "refused";
  why: string;
}

/** Properties of the saved value: T in the client, S in the response. */
export interface Home<T, S> {
  save: (value: T, at: S, amends: boolean) => Promise<S>;
  /** Undo or redo; absent if the server keeps no history. */
  step?: (to: "undo" | "redo", at: S) => Promise<S>;
  read: () => Promise<S>;
  valueOf: (saved: S) => T;
  versionOf: (saved: S) => number;
  failure: (error: unknown) => Failure;
  /** Storage of unsaved values across a reload. */
  shelf: Shelf;
  onSaved?: (saved: S) => void;
}

export interface Shelf {
  get: () => string | null;
  put: (text: string | null) => void;
}

type Job<T> =
  | { kind: "save"; changes: Change<T>[]; amends: boolean }
  | { kind: "undo" }
  | { kind: "redo" };

interface Shelved<T> {
  version: number;
  value: T;
  /** Values sent for that version whose responses are missing. */
  sent?: T[];
}

export const RETRIES = [1000, 2000, 4000, 8000, 10_000] as const;

const same = (a: unknown, b: unknown) => canonical(a) === canonical(b);

/** Text of a value, independent of the order of object fields. */
function canonical(value: unknown): string {
  return JSON.stringify(value, (_, one: unknown) =>
    one && typeof one === "object" && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1)))
      : one,
  );
}

export class SaveQueue<T, S> {
  private jobs: Job<T>[] = [];
  private moves: Change<T>[] = [];
  private busy = false;
  private tries = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private theirs: S | null = null;
  /** Values sent on the stored state whose responses are missing: they may have been saved. */
  private sent: T[] = [];
  private listeners = new Set<() => void>();
  private shown: { value: T; saving: Saving };

  constructor(
    private kept: S,
    private readonly home: Home<T, S>,
  ) {
    this.shown = { value: home.valueOf(kept), saving: { state: "saved" } };
    this.restore();
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  readonly snapshot = () => this.shown;

  /** Everything is saved. */
  get isSaved(): boolean {
    return this.shown.saving.state === "saved" && this.jobs.length === 0;
  }

  /** Last known state of the server. */
  get saved(): S {
    return this.kept;
  }

  /** Preview a change while dragging; nothing is saved. */
  move(change: Change<T>): void {
    this.moves.push(change);
    this.show(change(this.shown.value));
  }

  /** Save a change; one that amends is undone together with the previous one. */
  commit(change: Change<T>, amends = false): void {
    const changes = [...this.moves, change];
    this.moves = [];
    const last = this.jobs.at(-1);
    if (last?.kind === "save" && !(this.busy && this.jobs.length === 1)) {
      // Waiting changes are saved together.
      last.changes.push(...changes);
      last.amends &&= amends;
    } else this.jobs.push({ kind: "save", changes, amends });
    const { state } = this.shown.saving;
    const saving = state === "saved" || state === "refused" ? "saving" : null;
    if (saving) this.shown = { ...this.shown, saving: { state: saving } };
    this.show(change(this.shown.value));
    this.keepOnShelf();
    void this.run();
  }

  /** Undo or redo after all earlier saves have completed. */
  step(to: "undo" | "redo"): void {
    this.jobs.push({ kind: to });
    void this.run();
  }

  /** A new state from the server: from another tab, or in a response. */
  arrived(fresh: S): void {
    if (this.home.versionOf(fresh) <= this.home.versionOf(this.kept)) return;
    if (this.jobs.length > 0 || this.shown.saving.state !== "saved") return;
    this.adopt(fresh);
  }

  /** After a conflict: overwrite the other change with the local one. */
  takeMine(): void {
    if (!this.theirs) return;
    this.kept = this.theirs;
    this.sent = [];
    this.theirs = null;
    const mine = this.shown.value;
    this.jobs = [{ kind: "save", changes: [() => mine], amends: false }];
    this.say({ state: "saving" });
    void this.run();
  }

  /** After a conflict or a rejection: show the saved state and discard local changes. */
  takeTheirs(): void {
    const saved = this.theirs ?? this.kept;
    this.theirs = null;
    this.jobs = [];
    this.adopt(saved);
    this.home.onSaved?.(saved);
  }

  /** Retry now. */
  retry(): void {
    clearTimeout(this.timer);
    void this.run();
  }

  private adopt(saved: S): void {
    this.kept = saved;
    this.sent = [];
    this.moves = [];
    this.home.shelf.put(null);
    this.shown = { value: this.home.valueOf(saved), saving: { state: "saved" } };
    this.tell();
  }

  private async run(): Promise<void> {
    if (this.busy || this.shown.saving.state === "conflict") return;
    this.busy = true;
    clearTimeout(this.timer);
    while (this.jobs.length > 0) {
      const state = this.shown.saving.state;
      if (state !== "waiting") this.say({ state: "saving" });
      if (!(await this.first())) break;
    }
    this.busy = false;
    if (this.jobs.length === 0 && this.shown.saving.state === "saving") {
      this.home.shelf.put(null);
      this.say({ state: "saved" });
    }
  }

  /** Carry out the first job; false if the queue has to wait. */
  private async first(): Promise<boolean> {
    const job = this.jobs[0];
    if (!job) return false;
    const sent = job.kind === "save" ? this.valueFor(job) : null;
    if (sent !== null) {
      this.sent.push(sent);
      this.keepOnShelf();
    }
    try {
      if (sent !== null && job.kind === "save")
        this.done(job, await this.home.save(sent, this.kept, job.amends));
      else if (job.kind !== "save" && this.home.step)
        this.done(job, await this.home.step(job.kind, this.kept));
      this.tries = 0;
      if (this.shown.saving.state === "waiting") this.say({ state: "saving" });
      return true;
    } catch (error) {
      return this.failed(job, sent, this.home.failure(error));
    }
  }

  /** Content of a save: all local changes, unless later steps must follow it. */
  private valueFor(job: Job<T> & { kind: "save" }): T {
    if (this.jobs.length === 1) return this.shown.value;
    return job.changes.reduce((value, change) => change(value), this.home.valueOf(this.kept));
  }

  private done(job: Job<T>, saved: S): void {
    this.kept = saved;
    this.sent = [];
    this.jobs.shift();
    if (job.kind !== "save") {
      // Changes made during the request are based on its result.
      const later = this.jobs.flatMap((one) => (one.kind === "save" ? one.changes : []));
      const changes = [...later, ...this.moves];
      this.show(changes.reduce((value, change) => change(value), this.home.valueOf(saved)));
    }
    if (this.jobs.length > 0) this.keepOnShelf();
    this.home.onSaved?.(saved);
  }

  private async failed(job: Job<T>, sent: T | null, failure: Failure): Promise<boolean> {
    if (failure.kind === "away") {
      const wait = RETRIES[Math.min(this.tries, RETRIES.length - 1)];
      this.tries += 1;
      this.say({ state: "waiting", why: failure.why });
      this.timer = setTimeout(() => void this.run(), wait);
      return false;
    }
    if (failure.kind === "conflict") return this.collided(job, sent, failure.why);
    this.sent.pop();
    this.jobs.shift();
    this.say({ state: "refused", why: failure.why });
    return false;
  }

  /** Another client changed it, or our own save succeeded and its response was lost. */
  private async collided(job: Job<T>, sent: T | null, why: string): Promise<boolean> {
    let fresh: S;
    try {
      fresh = await this.home.read();
    } catch (error) {
      return this.failed(job, sent, { ...this.home.failure(error), kind: "away" });
    }
    const ahead = this.home.versionOf(fresh) - this.home.versionOf(this.kept);
    if (sent !== null && ahead === 1 && this.wasSent(fresh) && !this.holds(fresh, sent)) {
      // An earlier value was saved, but its response was lost: continue from it.
      this.kept = fresh;
      this.sent = [];
      return true;
    }
    const ours = sent !== null && this.holds(fresh, sent);
    if (ours || (sent === null && ahead === 1 && this.tries > 0)) {
      this.tries = 0;
      this.done(job, fresh);
      this.say({ state: "saving" });
      return true;
    }
    if (sent === null && ahead === 0) {
      // There is nothing to undo.
      this.jobs.shift();
      if (this.jobs.length === 0) this.say({ state: "saving" });
      return true;
    }
    this.theirs = fresh;
    this.jobs = [];
    this.say({ state: "conflict", why });
    return false;
  }

  private holds(saved: S, value: T): boolean {
    return same(this.home.valueOf(saved), value);
  }

  private wasSent(saved: S): boolean {
    return this.sent.some((value) => this.holds(saved, value));
  }

  private keepOnShelf(): void {
    const shelved: Shelved<T> = {
      version: this.home.versionOf(this.kept),
      value: this.shown.value,
      sent: this.sent,
    };
    this.home.shelf.put(JSON.stringify(shelved));
  }

  /** Unsaved changes when the page was unloaded. */
  private restore(): void {
    const text = this.home.shelf.get();
    if (!text) return;
    let shelved: Shelved<T>;
    try {
      shelved = JSON.parse(text) as Shelved<T>;
    } catch {
      this.home.shelf.put(null);
      return;
    }
    const { value, version, sent = [] } = shelved;
    if (this.holds(this.kept, value)) {
      this.home.shelf.put(null);
      return;
    }
    this.shown = { value, saving: { state: "saving" } };
    this.sent = sent;
    const ahead = this.home.versionOf(this.kept) - version;
    if (ahead === 0 || (ahead === 1 && this.wasSent(this.kept))) {
      // A save that was sent before the page was closed may still arrive and is recognized as ours.
      if (ahead === 1) this.sent = [];
      this.jobs = [{ kind: "save", changes: [() => value], amends: false }];
      void this.run();
    } else {
      this.theirs = this.kept;
      const why = "Someone else changed this after the page was closed.";
      this.shown = { value, saving: { state: "conflict", why } };
    }
  }

  private show(value: T): void {
    this.shown = { ...this.shown, value };
    this.tell();
  }

  private say(saving: Saving): void {
    this.shown = { ...this.shown, saving };
    this.tell();
  }

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}

/** Browser storage; without it, unsaved values are lost when the page is closed. */
export function shelfOf(key: string): Shelf {
  const name = `copper-sieve/unsaved/${key}`;
  return {
    get: () => {
      try {
        return localStorage.getItem(name);
      } catch {
        return null;
      }
    },
    put: (text) => {
      try {
        if (text === null) localStorage.removeItem(name);
        else localStorage.setItem(name, text);
      } catch {
        // Storage is full or forbidden; the value stays in memory.
      }
    },
  };
}
