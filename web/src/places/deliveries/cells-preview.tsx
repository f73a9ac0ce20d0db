// Below the table: preview of a delivery of the selected cells.
import type { UseQueryResult } from "@tanstack/react-query";
import { FolderOutput } from "lucide-react";
import { type ReactNode, useState } from "react";
import type { DeliveryPreviewRead, TargetPreset, TrayRow } from "@/api/client";
import { Button } from "@/parts/button";
import { Causes } from "./causes";
import { DryPart } from "./dry-part";

interface Props {
  project: string;
  count: number;
  look: UseQueryResult<DeliveryPreviewRead>;
  targets: TargetPreset[];
  rows: TrayRow[];
  asking: boolean;
  onDeliver: (way: Way) => void;
  onNone: () => void;
  /** Whether all chosen cells are delivered automatically. */
  kept: boolean;
  onKeep: (kept: boolean) => void;
}

/** Options of a delivery. */
export interface Way {
  delete_obsolete: boolean;
  rewrite: boolean;
}

export function CellsPreview(props: Props) {
  const { count, look, targets, rows, asking, onDeliver, onNone, kept, onKeep } = props;
  const { data, error } = look;
  const [way, setWay] = useState<Way>({ delete_obsolete: false, rewrite: false });
  const left = data?.left ?? 0;
  const looked = data && !look.isPlaceholderData && data.parts === count;
  const ready = looked && data.blocked < data.parts;
  const writes = data ? data.files - (way.rewrite ? 0 : data.unchanged) : 0;
  // Copies are compared at their destination; removed files count as a change.
  const nothing = data && writes === 0 && data.copies === 0 && !(way.delete_obsolete && left > 0);
  return (
    <section
      aria-label="Files to be written"
      className="mt-3 flex min-h-60 grow basis-0 overflow-hidden rounded-md border border-rule bg-card"
    >
      <div className="flex w-80 shrink-0 flex-col border-r border-rule bg-sheet p-4">
        <p className="font-semibold">
          {count} {count === 1 ? "cell" : "cells"} selected
        </p>
        <p aria-live="polite" className="mb-2 text-second figures">
          {data ? summary(data) : "checking…"}
        </p>
        <section
          aria-label="Messages"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, also by keys
          tabIndex={0}
          className="min-h-0 grow overflow-auto"
        >
          {error && <p className="text-wrong">△ {error.message}</p>}
          {data && <Causes project={props.project} causes={data.causes} rows={rows} />}
        </section>
        {left > 0 && (
          <Choice
            chosen={way.delete_obsolete}
            onChoose={(delete_obsolete) => setWay({ ...way, delete_obsolete })}
          >
            Delete {left} {left === 1 ? "file" : "files"} of earlier deliveries that this one no
            longer contains
          </Choice>
        )}
        <Choice chosen={way.rewrite} onChoose={(rewrite) => setWay({ ...way, rewrite })}>
          Rewrite unchanged files
        </Choice>
        <Choice chosen={kept} onChoose={onKeep}>
          Auto-deliver {count === 1 ? "this cell" : `these ${count} cells`} on change
        </Choice>
        <div className="flex gap-2 pt-3">
          <Button
            look="main"
            disabled={!ready || asking || nothing}
            title={nothing ? "All files are up to date" : undefined}
            onClick={() => onDeliver({ ...way, delete_obsolete: way.delete_obsolete && left > 0 })}
          >
            <FolderOutput className="size-4" aria-hidden="true" />
            {data ? deliverLabel(writes, nothing) : "Deliver"}
          </Button>
          <Button look="bare" onClick={onNone}>
            Clear selection
          </Button>
        </div>
      </div>
      <section
        aria-label="Files"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, also by keys
        tabIndex={0}
        className="min-w-0 grow overflow-auto p-4"
      >
        {data?.shown.map((part) => (
          <DryPart
            key={`${part.set_id}-${part.target_id}`}
            part={part}
            title={targets.find((one) => one.id === part.target_id)?.title}
          />
        ))}
        {data && data.parts > data.shown.length && (
          <p className="text-second">
            … and the files of {data.parts - data.shown.length} more cells.
          </p>
        )}
      </section>
    </section>
  );
}

interface ChoiceProps {
  chosen: boolean;
  onChoose: (chosen: boolean) => void;
  children: ReactNode;
}

function Choice({ chosen, onChoose, children }: ChoiceProps) {
  return (
    <label className="flex gap-2 pt-2 text-small leading-snug text-second">
      <input
        type="checkbox"
        checked={chosen}
        onChange={(event) => onChoose(event.target.checked)}
        className="mt-0.5 accent-verdigris"
      />
      <span>{children}</span>
    </label>
  );
}

function deliverLabel(writes: number, nothing: boolean | undefined): string {
  if (nothing) return "Up to date";
  return `Deliver ${writes} ${writes === 1 ? "file" : "files"}`;
}

function summary(data: DeliveryPreviewRead): string {
  const files = `${data.files} ${data.files === 1 ? "file" : "files"}`;
  const cells = data.blocked === 1 ? "cell" : "cells";
  return [
    files,
    data.replaced > 0 && `${data.replaced} replaced`,
    data.unchanged > 0 && `${data.unchanged} unchanged`,
    data.blocked > 0 && `${data.blocked} ${cells} skipped`,
  ]
    .filter(Boolean)
    .join(" · ");
}
