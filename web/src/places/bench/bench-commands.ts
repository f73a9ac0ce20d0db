import { useNavigate } from "react-router";
import { useCommands } from "@/parts/commands";
import type { BenchState } from "./use-bench";

/** What can be done on the Bench by a key or by name. */
export function useBenchCommands(bench: BenchState) {
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
      label: "Prepare the source: frame, blemishes, light, seams, scale",
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
      label: "Readings of the photo, lit beside each other",
      keys: "q",
      disabled: !isRead,
      run: () => bench.setReadings((now) => (now ? null : "relief")),
    },
    {
      id: "checklist",
      label: "Checklist: what seems wrong with this set",
      keys: "k",
      run: () => bench.setChecklist((now) => !now),
    },
    {
      id: "recipes",
      label: "Recipes, and settings for other sets",
      keys: "Shift+R",
      run: () => bench.setRecipes(true),
    },
    { id: "deliver", label: "Deliver this set", run: () => navigate(bench.deliver) },
  ]);
}
