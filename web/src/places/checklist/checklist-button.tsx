// Number of open findings of a set, and the highest severity.
import { ListChecks } from "lucide-react";
import type { SetRead } from "@/api/client";
import { Button } from "@/parts/button";
import { weights } from "./finding";
import { useChecklists } from "./use-checklists";

interface Props {
  project: string;
  set: SetRead;
  pressed: boolean;
  onClick: () => void;
}

export function ChecklistButton({ project, set, pressed, onClick }: Props) {
  const list = useChecklists(project, [set]).data?.[0];
  const open = list?.findings.filter((one) => !one.ignored) ?? [];
  const grave = open[0];
  const { Sign, look } = grave ? weights[grave.weight] : { Sign: ListChecks, look: "" };
  const label = grave
    ? open.map((one) => one.title).join(", ")
    : list?.current
      ? "No problems found"
      : "Checking…";
  return (
    <Button onClick={onClick} aria-pressed={pressed} title={`${label} (K)`}>
      <Sign className={`size-4 ${look}`} aria-hidden="true" /> Checklist
      {open.length > 0 && <span className="figures">{open.length}</span>}
    </Button>
  );
}
