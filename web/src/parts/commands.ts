// All available commands with names and shortcuts, shown by the command palette and the shortcut
// list.
import { useEffect } from "react";
import { create } from "zustand";
import { useLatest } from "./use-latest";

export interface Command {
  id: string;
  label: string;
  /** A key, optionally with Ctrl or Shift, as displayed: "t", "Ctrl+Z". */
  keys?: string | undefined;
  disabled?: boolean;
  /** Synonyms for the search. */
  also?: string;
  run: () => void;
}

interface Registry {
  groups: Map<number, () => Command[]>;
  put: (id: number, list: (() => Command[]) | null) => void;
}

const useRegistry = create<Registry>((set) => ({
  groups: new Map(),
  put: (id, list) =>
    set((state) => {
      const groups = new Map(state.groups);
      if (list) groups.set(id, list);
      else groups.delete(id);
      return { groups };
    }),
}));

let last = 0;

/** Register commands while a component is mounted. */
export function useCommands(commands: Command[]): void {
  const latest = useLatest(commands);
  const put = useRegistry((state) => state.put);
  useEffect(() => {
    last += 1;
    const id = last;
    put(id, () => latest.current);
    return () => put(id, null);
  }, [put, latest]);
}

/** All registered commands. */
export function allCommands(): Command[] {
  return [...useRegistry.getState().groups.values()].flatMap((list) => list());
}

/** Notation of a key press: "t", "Shift+T", "Ctrl+Z". */
export function written(event: Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "shiftKey">) {
  const ctrl = event.ctrlKey || event.metaKey;
  // Symbols typed with Shift are written without it.
  const shift = event.shiftKey && (event.key.length > 1 || /[a-z]/i.test(event.key));
  if (!ctrl && !shift) return event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const key = event.key.length === 1 ? event.key.toUpperCase() : event.key;
  return `${ctrl ? "Ctrl+" : ""}${shift ? "Shift+" : ""}${key}`;
}

/** Whether a key press belongs to a text field. */
export function isTyping(target: EventTarget | null, ctrl: boolean): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (!ctrl && target.closest("[role=listbox], [role=menu], [role=dialog]")) return true;
  if (target instanceof HTMLInputElement && ["checkbox", "radio", "file"].includes(target.type))
    return false;
  return target.matches("input, textarea, select, [contenteditable]");
}

/** Run the command of a key press. */
export function useCommandKeys(): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.altKey) return;
      if (isTyping(event.target, event.ctrlKey || event.metaKey)) return;
      const keys = written(event);
      const found = allCommands().find((one) => one.keys === keys && !one.disabled);
      if (!found) return;
      event.preventDefault();
      found.run();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);
}
