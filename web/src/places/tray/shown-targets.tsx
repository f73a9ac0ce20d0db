// Targets with a column in the set list.
import { Check, ChevronDown } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useMemo, useState } from "react";
import type { TargetPreset, TrayRow } from "@/api/client";

const KEPT = "sieve:shown-targets";
const AT_FIRST = ["gltf-metal-rough", "orm-y-down"];

function remembered(project: string): string[] | null {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "{}")[project] ?? null;
  } catch {
    return null;
  }
}

const NO_TARGETS: TargetPreset[] = [];

/** Displayed targets: selected, currently requested, and with deliveries. */
export function useShownTargets(
  project: string,
  targets: TargetPreset[] = NO_TARGETS,
  rows: readonly TrayRow[],
  wanted: readonly string[] = [],
) {
  const [chosen, setChosen] = useState(() => remembered(project) ?? AT_FIRST);
  const used = useMemo(() => {
    const ids = new Set(rows.flatMap((row) => Object.keys(row.delivered)));
    return new Set(targets.filter((one) => ids.has(one.id)));
  }, [rows, targets]);
  const more = wanted.join(",");
  const shown = useMemo(() => {
    const ids = new Set([...chosen, ...more.split(",")]);
    const shows = (one: TargetPreset) => !chosen.includes(hidden(one.id)) && used.has(one);
    return targets.filter((one) => ids.has(one.id) || shows(one));
  }, [targets, chosen, used, more]);
  function toggle(id: string) {
    const isShown = shown.some((one) => one.id === id);
    const others = chosen.filter((one) => one !== id && one !== hidden(id));
    // A target with deliveries is shown unless hidden by the user.
    const next = [...others, isShown ? hidden(id) : id];
    const all = JSON.parse(localStorage.getItem(KEPT) ?? "{}");
    localStorage.setItem(KEPT, JSON.stringify({ ...all, [project]: next }));
    setChosen(next);
  }
  return { shown, used, toggle };
}

const hidden = (id: string) => `-${id}`;

type Props = ReturnType<typeof useShownTargets> & { targets: TargetPreset[] };

export function TargetsMenu({ targets, shown, used, toggle }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="inline-flex h-control items-center gap-1.5 rounded-md border border-rule bg-sheet px-3 font-medium hover:bg-card">
        Columns <ChevronDown className="size-3.5 text-second" aria-hidden="true" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 max-h-[70vh] w-82.5 overflow-auto rounded-sm border border-rule bg-card py-1"
        >
          {targets.map((target) => (
            <DropdownMenu.CheckboxItem
              key={target.id}
              checked={shown.includes(target)}
              onCheckedChange={() => toggle(target.id)}
              onSelect={(event) => event.preventDefault()}
              title={target.note}
              className="flex cursor-pointer items-center gap-2 py-1 pr-3 pl-2 outline-none data-highlighted:bg-copper-pale"
            >
              <span className="w-4 shrink-0">
                <DropdownMenu.ItemIndicator>
                  <Check className="size-3.5 text-copper" aria-hidden="true" />
                </DropdownMenu.ItemIndicator>
              </span>
              <span className="min-w-0 grow truncate">{target.title}</span>
              {used.has(target) && <span className="text-note text-second">delivered</span>}
            </DropdownMenu.CheckboxItem>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
