// Save indicator; "saved" is shown only after the server has confirmed.

import { AlertTriangle, CloudOff, GitFork } from "lucide-react";
import { useAway } from "@/api/away";
import { Button } from "./button";
import type { Saving } from "./save-queue";

interface Props {
  saving: Saving;
  /** After a conflict: keep the local state and overwrite the other change. */
  takeMine: () => void;
  /** Show the saved state and discard unsaved changes. */
  takeTheirs: () => void;
  retry: () => void;
}

const strong = "font-medium text-copper whitespace-nowrap";

export function SavingState({ saving, takeMine, takeTheirs, retry }: Props) {
  const { state } = saving;
  const away = useAway((one) => one.why !== null); // then the page shows the reason
  if (state === "saved" || state === "saving")
    return (
      <span role="status" className="text-small whitespace-nowrap text-second">
        {state === "saving" ? "saving…" : "saved"}
      </span>
    );
  const tone = state === "waiting" ? "bg-ochre-pale text-ochre" : "bg-wrong-pale text-wrong";
  const Icon = { waiting: CloudOff, refused: AlertTriangle, conflict: GitFork }[state];
  return (
    <span
      role="alert"
      title={saving.why}
      className={`flex h-control min-w-0 items-center gap-2 rounded-md px-2.5 text-small ${tone}`}
    >
      <Icon className="size-4 shrink-0" aria-hidden="true" />
      <b className="whitespace-nowrap">Not saved</b>
      {!(away && state === "waiting") && (
        <span className="truncate">
          {state === "conflict" ? "Someone else changed this." : saving.why}
        </span>
      )}
      {state === "waiting" && (
        <Button look="link" className={strong} onClick={retry}>
          Retry now
        </Button>
      )}
      {state === "refused" && (
        <Button look="link" className={strong} onClick={takeTheirs}>
          Reload saved version
        </Button>
      )}
      {state === "conflict" && (
        <>
          <Button look="link" className={strong} onClick={takeMine}>
            Keep yours
          </Button>
          <Button look="link" className={strong} onClick={takeTheirs}>
            Load theirs
          </Button>
        </>
      )}
    </span>
  );
}
