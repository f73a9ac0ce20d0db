// Header of a target: title, undo, and actions on the whole target.
import { Copy, Download, Plus, Redo2, Trash2, Undo2, Upload } from "lucide-react";
import { useRef, useState } from "react";
import type { TargetRead } from "@/api/client";
import { Button } from "@/parts/button";
import { SavingState } from "@/parts/saving-state";
import { titled } from "./packing";
import type { TargetState } from "./use-target";
import type { useTargetActions } from "./use-targets";

interface Props {
  target: TargetRead;
  targets: TargetRead[];
  state: TargetState;
  shelf: ReturnType<typeof useTargetActions>;
}

export function TargetBar({ target, targets, state, shelf }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  const { preset } = state;
  const others = targets.filter((one) => one.id !== target.id).map((one) => one.id);
  return (
    <div className="flex h-bar shrink-0 items-center gap-3">
      <h1 className="text-title font-semibold">Targets</h1>
      {target.own ? (
        <>
          <TitleField
            value={preset.title}
            onCommit={(title) => state.change((one) => titled(one, title, others))}
          />
          <span className="whitespace-nowrap text-second" title="Destination of deliveries">
            to <span className="figures">{preset.id}/</span>
          </span>
        </>
      ) : (
        <span className="truncate text-second">{preset.note}</span>
      )}
      <span className="ml-auto" />
      {target.own && (
        <>
          <SavingState {...state} />
          <Button disabled={!state.undo} title="Ctrl+Z" onClick={() => state.undo?.()}>
            <Undo2 className="size-4" /> Undo
          </Button>
          <Button
            disabled={!state.redo}
            aria-label="Redo"
            title="Ctrl+Shift+Z"
            onClick={() => state.redo?.()}
          >
            <Redo2 className="size-4" />
          </Button>
          <Button look="bare" aria-label="Delete target" onClick={shelf.remove}>
            <Trash2 className="size-4" />
          </Button>
        </>
      )}
      <Button look="bare" title="Export as JSON" onClick={shelf.give}>
        <Download className="size-4" /> Export…
      </Button>
      <Button look="bare" onClick={() => picker.current?.click()}>
        <Upload className="size-4" /> Import…
      </Button>
      <input
        ref={picker}
        type="file"
        hidden
        accept=".json"
        aria-label="Target to import"
        onChange={(event) => {
          void shelf.bring(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <Button look="bare" onClick={shelf.begin}>
        <Plus className="size-4" /> New
      </Button>
      <Button look={target.own ? "plain" : "main"} onClick={shelf.copy}>
        <Copy className="size-4" /> {target.own ? "Duplicate" : "Duplicate and edit"}
      </Button>
    </div>
  );
}

function TitleField({ value, onCommit }: { value: string; onCommit: (value: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const accept = () => {
    if (typed?.trim() && typed !== value) onCommit(typed.trim());
    setTyped(null);
  };
  return (
    <input
      aria-label="Title of the target"
      className="h-control w-65 rounded-sm border border-rule bg-card px-2 font-medium"
      value={typed ?? value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={accept}
      onKeyDown={(event) => event.key === "Enter" && accept()}
    />
  );
}
