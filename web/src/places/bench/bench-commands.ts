import { useNavigate } from "react-router";
import type { OperationRead } from "@/api/client";
import { type Command, useCommands } from "@/parts/commands";
import type { BenchState } from "./use-bench";

/** A command for each setting of the set's derived maps: it opens the map and focuses the control. */
function settings(
  { kinds, titleOf, state, open }: BenchState,
  operations: OperationRead[],
): Command[] {
  return kinds.flatMap((kind) => {
    const definition = state.draft.maps[kind];
    if (definition?.how !== "derived") return [];
    const operation = operations.find((one) => one.name === definition.operation);
    return (operation?.parameters ?? []).map(({ name, label }) => ({
      id: `setting-${kind}-${name}`,
      label: `${titleOf(kind)}: ${label}`,
      run: () => {
        open(kind);
        focusSetting(titleOf(kind), label);
      },
    }));
  });
}

/** Focus a control of the settings once it is displayed, for at most a second. */
function focusSetting(title: string, label: string, tries = 20) {
  const panel = document.querySelector(`[aria-label="Settings of ${title}"]`);
  const control = panel?.querySelector<HTMLElement>(
    `input[aria-label="${label}"], [role=slider][aria-label="${label}"], [aria-label="${label}"]`,
  );
  if (control) {
    control.scrollIntoView({ block: "nearest" });
    const inner = control.matches("input, button, select, [tabindex]")
      ? control
      : control.querySelector<HTMLElement>("input, button, select, [tabindex]");
    inner?.focus();
  } else if (tries > 0) setTimeout(() => focusSetting(title, label, tries - 1), 50);
}

/** Commands and shortcuts of the Bench. */
export function useBenchCommands(bench: BenchState, operations: OperationRead[]) {
  const navigate = useNavigate();
  const { set, kinds, titleOf, state, isRead } = bench;
  useCommands([
    ...kinds.map((one, n) => ({
      id: `map-${one}`,
      label: `Show ${titleOf(one)}`,
      keys: n < 9 ? String(n + 1) : undefined,
      run: () => bench.open(one),
    })),
    {
      id: "prepare",
      label: "Prepare source: frame, blemishes, lighting, seams, scale",
      keys: "0",
      run: () => bench.open("prepare"),
    },
    {
      id: "undo",
      label: "Undo",
      keys: "Ctrl+Z",
      disabled: !set.can_undo,
      run: () => state.step("undo"),
    },
    {
      id: "redo",
      label: "Redo",
      keys: "Ctrl+Shift+Z",
      disabled: !set.can_redo,
      run: () => state.step("redo"),
    },
    {
      id: "readings",
      label: "Starting points: interpretations of the photo, lit next to each other",
      keys: "q",
      disabled: !isRead,
      run: () => bench.setReadings((now) => (now ? null : "relief")),
    },
    {
      id: "checklist",
      label: "Checklist: problems of this set",
      keys: "k",
      run: () => bench.setChecklist((now) => !now),
    },
    {
      id: "recipes",
      label: "Recipes: apply settings to other sets",
      keys: "Shift+R",
      run: () => bench.setRecipes(true),
    },
    { id: "deliver", label: "Deliver this set", run: () => navigate(bench.deliver) },
    ...settings(bench, operations),
  ]);
}
