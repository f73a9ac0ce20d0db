// Messages of a delivery preview: each cause once; information and dismissed warnings are folded.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { answer, api, type DeliveryPreviewRead, type TrayRow } from "@/api/client";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { notify } from "@/parts/notices";

type Cause = DeliveryPreviewRead["causes"][number];

const weights = {
  blocked: { word: "Skipped", look: "text-wrong font-medium" },
  error: { word: "Error", look: "text-wrong font-medium" },
  warning: { word: "Warning", look: "text-ochre" },
  info: { word: "Info", look: "text-second" },
} as const;

const NAMED = 3;

interface Props {
  project: string;
  causes: Cause[];
  rows: TrayRow[];
}

export function Causes({ project, causes, rows }: Props) {
  const dismiss = useDismiss(project);
  const line = (cause: Cause, action: ReactNode = null) => (
    <CauseLine key={`${cause.weight} ${cause.text}`} cause={cause} rows={rows} action={action} />
  );
  const act = (cause: Cause, dismissed: boolean) => (
    <Button
      look="bare"
      title={dismissed ? "Don't show this warning for these sets again" : undefined}
      disabled={dismiss.isPending}
      onClick={() => dismiss.mutate({ cause, dismissed })}
    >
      {dismissed ? "Dismiss" : "Show again"}
    </Button>
  );
  const open = causes.filter((one) => one.weight !== "info" && !one.dismissed);
  const notes = causes.filter((one) => one.weight === "info");
  const hidden = causes.filter((one) => one.dismissed);
  return (
    <>
      {open.map((one) => line(one, one.cause && act(one, true)))}
      {notes.length > 0 && (
        <Folded title={`Info: ${notes.length} ${notes.length === 1 ? "message" : "messages"}`}>
          {notes.map((one) => line(one))}
        </Folded>
      )}
      {hidden.length > 0 && (
        <Folded title={`Dismissed (${hidden.length})`}>
          {hidden.map((one) => line(one, act(one, false)))}
        </Folded>
      )}
    </>
  );
}

function Folded({ title, children }: { title: string; children: ReactNode }) {
  return (
    <details className="mb-1.5 text-small text-second">
      <summary className="cursor-pointer">{title}</summary>
      <div className="pt-1.5 pl-3">{children}</div>
    </details>
  );
}

/** A cause with the names of its sets. */
function CauseLine({ cause, rows, action }: { cause: Cause; rows: TrayRow[]; action: ReactNode }) {
  const { word, look } = weights[cause.weight];
  const names = cause.set_ids
    .slice(0, NAMED)
    .map((id) => rows.find((row) => row.id === id)?.name ?? id);
  const more = cause.cells > names.length ? ` and ${cause.cells} cells in total` : "";
  return (
    <div className={`mb-1.5 text-small leading-snug ${look}`}>
      {word}: {cause.text}
      <span className="flex items-baseline justify-between gap-2 font-normal text-second">
        <span>
          {names.join(", ")}
          {more}
        </span>
        {action}
      </span>
    </div>
  );
}

function useDismiss(project: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ cause, dismissed }: { cause: Cause; dismissed: boolean }) =>
      answer(
        api.PUT("/api/v1/projects/{project}/dismissed-warnings", {
          params: { path: { project } },
          body: { set_ids: cause.set_ids, cause: cause.cause, dismissed },
        }),
      ),
    onSuccess: () => refresh(client, ["dry-run", project]),
    onError: (error) => notify("wrong", error.message),
  });
}
