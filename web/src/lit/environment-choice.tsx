import { Choice } from "@/parts/choice";
import type { EnvironmentState } from "./use-environment";

export function EnvironmentChoice({
  chosen,
  all,
  choose,
}: Pick<EnvironmentState, "chosen" | "all" | "choose">) {
  return (
    <span className="w-31">
      <Choice label="Environment" value={chosen.value} options={all} onChange={choose} />
    </span>
  );
}
