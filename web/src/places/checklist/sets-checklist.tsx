// Checklists of several sets, grouped by rule: fix all, or compare first.
import type { Change, TrayRow } from "@/api/client";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { words } from "@/parts/format";
import { Finding } from "./finding";
import { byRule, type RuleAmong, useChecklists, useFixes } from "./use-checklists";

interface Props {
  project: string;
  rows: TrayRow[];
  /** Change several sets in one step. */
  onMend: (ids: number[], change: Change) => void;
  onWall: (title: string, ids: number[], change: Change) => void;
  onClose: () => void;
}

const FEW = 3; // maximum number of listed names

export function SetsChecklist({ project, rows, onMend, onWall, onClose }: Props) {
  const { data, error } = useChecklists(project, rows);
  const found = byRule(data ?? []);
  const waiting = (data ?? []).filter((one) => !one.current).length;
  return (
    <DialogFrame
      title="Checklist"
      about={rows.length === 1 ? rows[0]?.name : `${rows.length} sets`}
      look="flex max-h-[88vh] w-150 flex-col p-5"
      onClose={onClose}
    >
      <div className="flex min-h-0 grow flex-col gap-4 overflow-auto pr-1">
        {error && <p className="text-wrong">{error.message}</p>}
        {data && found.length === 0 && waiting === 0 && (
          <p className="text-second">No problems found.</p>
        )}
        {found.map((one) => (
          <Rule
            key={`${one.finding.rule} ${one.finding.fix}`}
            of={one}
            rows={rows}
            project={project}
            onMend={onMend}
            onWall={onWall}
          />
        ))}
      </div>
      {waiting > 0 && (
        <p className="mt-3 text-small text-second" aria-live="polite">
          Checking {waiting === 1 ? "1 set" : `${waiting} sets`}…
        </p>
      )}
    </DialogFrame>
  );
}

type RuleProps = { of: RuleAmong } & Pick<Props, "rows" | "project" | "onMend" | "onWall">;

function Rule({ of: { finding, ids }, rows, project, onMend, onWall }: RuleProps) {
  const { say } = useFixes(project);
  const names = rows.filter((row) => ids.includes(row.id)).map((row) => row.name);
  const listed = names.slice(0, FEW).join(", ");
  const more = names.length > FEW ? ` and ${names.length - FEW} more` : "";
  const change: Change = { do: "fix", rule: finding.rule };
  const count = ids.length === 1 ? "1 set" : `${ids.length} sets`;
  return (
    <Finding of={finding} about={`${words(finding.kind)} in ${listed}${more}`}>
      {finding.fix && (
        <>
          <Button look="toggle" onClick={() => onMend(ids, change)}>
            {finding.fix} in {count}
          </Button>
          <Button
            look="link"
            className="text-small"
            onClick={() => onWall(finding.title, ids, change)}
          >
            Preview before/after…
          </Button>
        </>
      )}
      <Button
        look="link"
        className="text-small text-second"
        onClick={() => {
          for (const id of ids) say.mutate({ id, finding: finding.key, purpose: true });
        }}
      >
        Ignore in {ids.length === 1 ? "1 set" : `all ${ids.length} sets`}
      </Button>
    </Finding>
  );
}
