// Which targets have a column of their own on the Tray: those that one works for.
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

/** The targets that are shown: as chosen, those wanted now, those that something was delivered to. */
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
    return targets.filter((one) => ids.has(one.id) || used.has(one));
  }, [targets, chosen, used, more]);
  function toggle(id: string) {
    const next = chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id];
    const all = JSON.parse(localStorage.getItem(KEPT) ?? "{}");
    localStorage.setItem(KEPT, JSON.stringify({ ...all, [project]: next }));
    setChosen(next);
  }
  return { shown, chosen, used, toggle };
}

type Props = Omit<ReturnType<typeof useShownTargets>, "shown"> & { targets: TargetPreset[] };

export function TargetsMenu({ targets, chosen, used, toggle }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="inline-flex h-control items-center gap-1.5 rounded-md border border-rule bg-sheet px-3 font-medium hover:bg-card">
        Targets shown <ChevronDown className="size-3.5 text-second" aria-hidden="true" />
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
              checked={chosen.includes(target.id) || used.has(target)}
              disabled={used.has(target)}
              onCheckedChange={() => toggle(target.id)}
              onSelect={(event) => event.preventDefault()}
              title={target.note}
              className="flex cursor-pointer items-center gap-2 py-1 pr-3 pl-2 outline-none data-disabled:text-second data-highlighted:bg-copper-pale"
            >
              <span className="w-4 shrink-0">
                <DropdownMenu.ItemIndicator>
                  <Check className="size-3.5 text-copper" aria-hidden="true" />
                </DropdownMenu.ItemIndicator>
              </span>
              <span className="min-w-0 grow truncate">{target.title}</span>
              {used.has(target) && <span className="text-note">delivered to</span>}
            </DropdownMenu.CheckboxItem>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
