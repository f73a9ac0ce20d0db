// The command palette (Ctrl+K) and the list of shortcuts (?).
import { Dialog } from "radix-ui";
import { useRef, useState } from "react";
import { allCommands, type Command, useCommandKeys, useCommands } from "./commands";
import { synonymsOf } from "./synonyms";

const fixed = [
  { keys: "Tab", label: "Next control; Shift+Tab: previous control" },
  { keys: "← →", label: "Move a slider, a divider or the light; with Shift in larger steps" },
  { keys: "Double-click", label: "Reset slider" },
  { keys: "Esc", label: "Close, or stop picking" },
];

/**
 * Commands that contain words starting with the typed ones, in any order; commands that only
 * contain synonyms of them come last.
 */
export function matching(commands: Command[], typed: string): Command[] {
  const wanted = wordsOf(typed);
  const fits = (words: string[]) =>
    wanted.every((part) => words.some((word) => word.startsWith(part)));
  const direct = commands.filter((one) => fits(wordsOf(one.label)));
  const similar = commands.filter(
    (one) =>
      !direct.includes(one) &&
      fits([...wordsOf(one.label), ...wordsOf(one.also ?? "")].flatMap(synonymsOf)),
  );
  return [...direct, ...similar];
}

/** Split a text into words: "Open tatami_weave" has three. */
const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .replace("−", "-")
    .split(/[^\p{L}\p{N}+-]+/u)
    .flatMap((word) => (/[a-z]-[a-z]/.test(word) ? [word, ...word.split("-")] : [word]))
    .filter(Boolean);

export function CommandPalette() {
  const [open, setOpen] = useState<"palette" | "help" | null>(null);
  useCommands([
    { id: "palette", label: "Command palette", keys: "Ctrl+K", run: () => setOpen("palette") },
    { id: "help", label: "Keyboard shortcuts", keys: "?", run: () => setOpen("help") },
  ]);
  useCommandKeys();
  return (
    <Dialog.Root open={open !== null} onOpenChange={(next) => setOpen(next ? open : null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 flex max-h-[70vh] w-140 -translate-x-1/2 flex-col rounded-md border border-rule bg-card"
        >
          <Dialog.Title className="sr-only">
            {open === "help" ? "Keyboard shortcuts" : "Command palette"}
          </Dialog.Title>
          {open === "help" ? <Keys /> : <Palette close={() => setOpen(null)} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Palette({ close }: { close: () => void }) {
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const commands = allCommands().filter((one) => !one.disabled);
  const found = matching(commands, typed);
  const chosen = Math.min(at, found.length - 1);
  function run(command: Command | undefined) {
    if (!command) return;
    close();
    command.run();
  }
  function move(by: number) {
    const next = Math.max(0, Math.min(found.length - 1, chosen + by));
    setAt(next);
    list.current?.children[next]?.scrollIntoView({ block: "nearest" });
  }
  return (
    <>
      <input
        role="combobox"
        aria-label="Search commands"
        aria-expanded
        aria-controls="commands"
        placeholder="Command…"
        className="border-b border-rule bg-transparent px-4 py-3 text-lead outline-none"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (step) {
            event.preventDefault();
            move(step);
          } else if (event.key === "Enter") run(found[chosen]);
        }}
      />
      <div
        ref={list}
        id="commands"
        role="listbox"
        aria-label="Commands"
        className="overflow-auto p-1"
      >
        {found.map((one, index) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: Enter in the field runs it
          // biome-ignore lint/a11y/useFocusableInteractive: the focus stays in the field
          <div
            key={one.id}
            role="option"
            aria-selected={index === chosen}
            className="flex cursor-pointer items-center justify-between rounded-sm px-3 py-1.5 aria-selected:bg-copper-pale"
            onPointerMove={() => setAt(index)}
            onClick={() => run(one)}
          >
            {one.label}
            {one.keys && <Key keys={one.keys} />}
          </div>
        ))}
        {found.length === 0 && <p className="px-3 py-2 text-second">No matching command.</p>}
      </div>
    </>
  );
}

function Keys() {
  const commands = allCommands().filter((one) => one.keys);
  const all = [...commands.map(({ keys = "", label }) => ({ keys, label })), ...fixed];
  return (
    <div className="overflow-auto px-5 py-4">
      <h2 className="mb-2 text-lead font-semibold">Shortcuts on this screen</h2>
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1.5">
        {all.map((one) => (
          <div key={`${one.keys} ${one.label}`} className="contents">
            <dt className="text-right">
              <Key keys={one.keys} />
            </dt>
            <dd>{one.label}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

function Key({ keys }: { keys: string }) {
  return (
    <kbd className="rounded-sm border border-rule bg-sheet px-1.5 py-px text-note text-second figures">
      {keys.length === 1 ? keys.toUpperCase() : keys}
    </kbd>
  );
}
