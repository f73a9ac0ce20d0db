// Checklist of one set above the views: findings, and a preview before and after the fix.
import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { type FindingRead, litChange, type SetRead } from "@/api/client";
import { Button } from "@/parts/button";
import { words } from "@/parts/format";
import { Finding } from "./finding";
import { useChecklists, useFixes } from "./use-checklists";

interface Props {
  project: string;
  set: SetRead;
  /** There are unsaved changes: a fix would apply to another version. */
  unsaved: boolean;
  onClose: () => void;
}

export function BenchChecklist({ project, set, unsaved, onClose }: Props) {
  const { data, error } = useChecklists(project, [set]);
  const { fix, say } = useFixes(project);
  const [seen, setSeen] = useState<string | null>(null);
  const list = data?.[0];
  const findings = list?.findings ?? [];
  const looked = findings.find((one) => one.key === seen) ?? findings.find((one) => one.fix);
  return (
    <section
      aria-label="Checklist"
      className="flex size-full gap-3 rounded-sm border border-rule bg-card p-3"
    >
      <div className="flex w-110 shrink-0 flex-col">
        <h2 className="mb-2 text-lead font-semibold">Checklist</h2>
        <div className="min-h-0 grow overflow-auto pr-2">
          {error && <p className="text-wrong">{error.message}</p>}
          {list?.problem && <p className="text-wrong">{list.problem}.</p>}
          {list?.current && !list.problem && findings.length === 0 && (
            <p className="text-second">No problems found.</p>
          )}
          <ul className="flex flex-col gap-3.5">
            {findings.map((one) => (
              <li key={one.key}>
                <Finding of={one} about={words(one.kind)}>
                  {one.fix && !one.ignored && (
                    <Button
                      look="small"
                      className="py-0.5 font-medium"
                      disabled={unsaved || !list?.current || fix.isPending}
                      onFocus={() => setSeen(one.key)}
                      onMouseEnter={() => setSeen(one.key)}
                      onClick={() => fix.mutate({ ids: [set.id], rule: one.rule })}
                    >
                      {one.fix}
                    </Button>
                  )}
                  <Button
                    look="link"
                    className="text-small text-second"
                    onClick={() =>
                      say.mutate({ id: set.id, finding: one.key, purpose: !one.ignored })
                    }
                  >
                    {one.ignored ? "Stop ignoring" : "Ignore (intended)"}
                  </Button>
                </Finding>
              </li>
            ))}
          </ul>
          {list && !list.current && (
            <p className="mt-3 text-small text-second" aria-live="polite">
              {findings.length > 0 ? "Results from before the last change · " : ""}checking…
            </p>
          )}
        </div>
      </div>
      <Lit set={set} looked={looked} current={list?.current === true} />
      <Button
        aria-label="Close checklist"
        title="Esc"
        onClick={onClose}
        look="sign"
        className="shrink-0"
      >
        <X className="size-4" aria-hidden="true" />
      </Button>
    </section>
  );
}

interface LitProps {
  set: SetRead;
  looked: FindingRead | undefined;
  current: boolean;
}

/** Saved state, and the result of the fix under the pointer. */
function Lit({ set, looked, current }: LitProps) {
  const tiled = looked?.rule === "not_tileable"; // a seam shows where it is repeated
  const rule = current && looked?.fix && !looked.ignored ? looked.rule : null;
  return (
    <div className="grid min-w-0 grow grid-cols-2 gap-2">
      <Picture set={set} rule={null} words="current" tiled={tiled} />
      {rule ? (
        <Picture set={set} rule={rule} words={looked?.fix ?? ""} tiled={tiled} />
      ) : (
        <p className="grid place-items-center rounded-sm border border-dashed border-rule p-4 text-center text-small text-second">
          {looked ? "No change of settings fixes this." : "Select a fix to preview it here."}
        </p>
      )}
    </div>
  );
}

interface PictureProps {
  set: SetRead;
  rule: FindingRead["rule"] | null;
  words: string;
  tiled: boolean;
}

function Picture({ set, rule, words: caption, tiled }: PictureProps) {
  const { data, error } = useQuery({
    queryKey: ["lit-change", set.id, set.version, rule],
    queryFn: ({ signal }) => litChange(set.id, rule && { do: "fix", rule }, signal),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    retry: false,
  });
  return (
    <figure className="relative min-h-0 overflow-hidden rounded-sm bg-ground">
      {data && !tiled && (
        <img src={data} alt={`Lit: ${caption}`} className="size-full object-cover" />
      )}
      {data && tiled && (
        <div
          role="img"
          aria-label={`Lit and repeated: ${caption}`}
          className="size-full bg-center"
          style={{ backgroundImage: `url(${data})`, backgroundSize: "60%" }}
        />
      )}
      {!data && !error && <span className="absolute p-2 text-small text-sheet">rendering…</span>}
      {error && <span className="absolute p-2 text-small text-sheet">{error.message}</span>}
      <figcaption className="absolute inset-x-0 bottom-0 truncate bg-ink/85 px-2 py-1 text-small text-sheet">
        {caption}
      </figcaption>
    </figure>
  );
}
