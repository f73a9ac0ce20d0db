// Webhooks of a project: receivers of signed messages about deliveries, and the calls to them.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, done, type WebhookRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { CopyText } from "@/parts/copy-text";
import { DialogFrame } from "@/parts/dialog-frame";
import { when } from "@/parts/format";
import { WebhookCalls } from "./webhook-calls";

interface Props {
  project: string;
  onClose: () => void;
}

export function WebhooksDialog({ project, onClose }: Props) {
  const { data: webhooks, error } = useQuery(queries.webhooks(project));
  const { add, test, pause, remove } = useWebhooks(project);
  const [opened, setOpened] = useState<number | null>(null);
  return (
    <DialogFrame
      title="Webhooks"
      about="one signed message after each delivery"
      look="flex max-h-[92vh] w-200 flex-col p-5"
      onClose={onClose}
    >
      {webhooks && webhooks.length > 0 && (
        <ul aria-label="Webhooks" className="mb-4 divide-y divide-rule overflow-auto">
          {webhooks.map((one) => (
            <Webhook
              key={one.id}
              webhook={one}
              secret={add.data?.id === one.id ? add.data.secret : undefined}
              testing={test.isPending && test.variables === one.id}
              isOpen={opened === one.id}
              onOpen={() => setOpened(opened === one.id ? null : one.id)}
              onTest={() => test.mutate(one.id)}
              onPause={() => pause.mutate({ id: one.id, paused: !one.paused_at })}
              onRemove={() => remove.mutate(one.id)}
            />
          ))}
        </ul>
      )}
      {webhooks?.length === 0 && (
        <p className="mb-4 rounded-md border border-dashed border-rule p-6 text-center text-second">
          No webhooks yet. Each delivery sends one signed message: sets, targets and output paths.
        </p>
      )}
      <NewWebhook
        busy={add.isPending}
        onAdd={(url, done) => add.mutate(url, { onSuccess: done })}
      />
      {error && (
        <p role="alert" className="mt-2 text-wrong">
          △ {error.message}
        </p>
      )}
    </DialogFrame>
  );
}

interface WebhookProps {
  webhook: WebhookRead;
  /** Only available right after it was added. */
  secret: string | undefined;
  testing: boolean;
  isOpen: boolean;
  onOpen: () => void;
  onTest: () => void;
  onPause: () => void;
  onRemove: () => void;
}

function Webhook({ webhook, secret, testing, isOpen, ...does }: WebhookProps) {
  const { url, paused_at, last_called_at } = webhook;
  return (
    <li className="py-2.5" aria-label={url}>
      <div className="flex items-center gap-2">
        <span className="min-w-0 grow truncate figures" title={url}>
          {url}
        </span>
        <Button look="small" disabled={testing} onClick={does.onTest}>
          {testing ? "Sending…" : "Send test"}
        </Button>
        <Button look="small" onClick={does.onPause}>
          {paused_at ? "Resume" : "Pause"}
        </Button>
        <Button
          look="small"
          aria-expanded={isOpen}
          disabled={!last_called_at}
          title={last_called_at ? undefined : "No calls yet"}
          onClick={does.onOpen}
        >
          Calls
        </Button>
        <Button look="small" onClick={does.onRemove}>
          Remove webhook
        </Button>
      </div>
      <State webhook={webhook} />
      {secret && (
        <p className="mt-1.5 flex items-center gap-2 rounded-sm bg-ochre-pale px-2 py-1.5">
          <span className="shrink-0">Secret (shown only once):</span>
          <CopyText text={secret} label="Copy secret" />
        </p>
      )}
      {isOpen && <WebhookCalls webhook={webhook.id} />}
    </li>
  );
}

function State({ webhook }: { webhook: WebhookRead }) {
  const { last_called_at, last_error, failing_since, paused_at, waiting } = webhook;
  const wait = waiting > 0 ? ` ${waiting} ${waiting === 1 ? "message" : "messages"} waiting.` : "";
  if (paused_at) {
    const why = failing_since
      ? ` Every call has failed since ${when(failing_since)}: ${last_error}.`
      : "";
    return (
      <p className="text-small text-ochre">
        Paused {when(paused_at)}.{why}
        {wait}
      </p>
    );
  }
  if (last_called_at && last_error) {
    return (
      <p className="text-small text-wrong">
        △ Failed {when(last_called_at)}: {last_error}.{wait}
      </p>
    );
  }
  const last = last_called_at ? `✓ Sent ${when(last_called_at)}.` : "No calls yet.";
  return (
    <p className="text-small text-second">
      {last}
      {wait}
    </p>
  );
}

interface NewWebhookProps {
  busy: boolean;
  onAdd: (url: string, done: () => void) => void;
}

function NewWebhook({ busy, onAdd }: NewWebhookProps) {
  const [url, setUrl] = useState("");
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onAdd(url, () => setUrl(""));
      }}
    >
      <label className="min-w-0 grow">
        <span className="mb-1 block text-small font-medium text-second">URL</span>
        <input
          className="h-control w-full rounded-sm border border-rule bg-card px-2 figures"
          placeholder="https://build.example.org/textures"
          value={url}
          maxLength={2000}
          required
          onChange={(event) => setUrl(event.target.value)}
        />
      </label>
      <Button type="submit" look="main" disabled={busy || !url.trim()}>
        Add webhook
      </Button>
    </form>
  );
}

function useWebhooks(project: string) {
  const client = useQueryClient();
  const onSuccess = () => refresh(client, ["webhooks"]);
  const add = useMutation({
    mutationFn: (url: string) =>
      answer(
        api.POST("/api/v1/projects/{project}/webhooks", {
          params: { path: { project } },
          body: { url },
        }),
      ),
    onSuccess,
  });
  const one = (webhook_id: number) => ({ params: { path: { webhook_id } } });
  const test = useMutation({
    mutationFn: (id: number) => answer(api.POST("/api/v1/webhooks/{webhook_id}/tests", one(id))),
    onSuccess,
  });
  const pause = useMutation({
    mutationFn: ({ id, paused }: { id: number; paused: boolean }) =>
      answer(api.PATCH("/api/v1/webhooks/{webhook_id}", { ...one(id), body: { paused } })),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (id: number) => done(api.DELETE("/api/v1/webhooks/{webhook_id}", one(id))),
    onSuccess,
  });
  return { add, test, pause, remove };
}
