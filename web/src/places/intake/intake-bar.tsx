// Header of Intake: progress, and commands to add and accept files.
import { FolderInput, FolderSync, Plus } from "lucide-react";
import type { RefObject } from "react";
import { Button } from "@/parts/button";
import { useEndings } from "@/parts/pictures";
import { picked, useUploads } from "./uploads";

type Take = (files: ReturnType<typeof picked>) => void;

interface Props {
  counts: string;
  waiting: number;
  rows: number;
  accepted: boolean;
  /** Number of files that are in a set already. */
  inSets: number;
  onAccepted: (accepted: boolean) => void;
  files: RefObject<HTMLInputElement | null>;
  folder: RefObject<HTMLInputElement | null>;
  onServer: () => void;
  take: Take;
  /** Number of files that can be accepted. */
  open: number;
  busy: boolean;
  onAcceptAll: () => void;
}

export function IntakeBar(props: Props) {
  const { counts, waiting, rows, accepted, inSets, files, folder, take, open, busy } = props;
  return (
    <div className="flex h-bar shrink-0 items-center gap-3">
      <h1 className="text-title font-semibold">Intake</h1>
      <span className="figures text-second">{counts}</span>
      <Progress waiting={waiting} rows={rows} />
      <label className="ml-auto flex items-center gap-1.5 text-second">
        <input
          type="checkbox"
          className="accent-copper"
          checked={accepted}
          onChange={(event) => props.onAccepted(event.target.checked)}
        />
        show files in sets{inSets > 0 ? ` (${inSets})` : ""}
      </label>
      <Picker input={files} label="Files to import" take={take} />
      <Picker input={folder} label="Folder to import" take={take} whole />
      <Button onClick={() => folder.current?.click()}>
        <FolderInput className="size-4" /> Import folder…
      </Button>
      <Button onClick={props.onServer} title="Import or watch a folder on the server">
        <FolderSync className="size-4" /> Server folders…
      </Button>
      <Button onClick={() => files.current?.click()}>
        <Plus className="size-4" /> Import…
      </Button>
      <Button
        look="main"
        // Fixed width, so that the buttons don't move while the count changes.
        className="min-w-29 justify-center"
        disabled={open === 0 || busy}
        title="Adds every ready file to its set (Shift+Enter)"
        onClick={props.onAcceptAll}
      >
        Accept all{open > 0 ? ` ${open}` : ""}
      </Button>
    </div>
  );
}

function Progress({ waiting, rows }: { waiting: number; rows: number }) {
  const { total, done } = useUploads();
  const sending = done < total;
  if (!sending && waiting === 0) return <span role="status" />;
  const share = sending ? done / total : 1 - waiting / Math.max(rows, 1);
  const text = sending ? `${done} of ${total} uploaded` : `detecting ${waiting} more`;
  return (
    <span role="status" className="flex items-center gap-2 text-second">
      <span className="h-1.5 w-24 overflow-hidden rounded-full bg-rule">
        <span
          className="block h-full bg-verdigris"
          style={{ width: `${Math.round(share * 100)}%` }}
        />
      </span>
      <span className="figures">{text}</span>
    </span>
  );
}

interface PickerProps {
  input: RefObject<HTMLInputElement | null>;
  label: string;
  take: Take;
  whole?: boolean;
}

function Picker({ input, label, take, whole = false }: PickerProps) {
  const { takenIn } = useEndings();
  return (
    <input
      ref={input}
      type="file"
      multiple
      hidden
      accept={whole ? undefined : takenIn}
      aria-label={label}
      {...(whole ? { webkitdirectory: "" } : {})}
      onChange={(event) => {
        const found = picked(event.target.files);
        event.target.value = "";
        if (found.length > 0) take(found);
      }}
    />
  );
}
