// Who is told when a delivery has ended: addresses of people's own, each with its secret.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, done, type HookRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { CopyText } from "@/parts/copy-text";
import { DialogFrame } from "@/parts/dialog-frame";
import { when } from "@/parts/figures";

interface Props {
  project: string;
  onClose: () => void;
}

export function ToldDialog({ project, onClose }: Props) {
  const { data: hooks, error } = useQuery(queries.hooks(project));
  const { add, attempt, forget } = useHooks(project);
  return (
    <DialogFrame
      title="Who is told"
      about="when a delivery has ended, done or failed"
      look="flex max-h-[92vh] w-170 flex-col p-5"
      onClose={onClose}
    >
      {hooks && hooks.length > 0 && (
        <ul aria-label="Addresses" className="mb-4 divide-y divide-rule overflow-auto">
          {hooks.map((hook) => (
            <Address
              key={hook.id}
              hook={hook}
              secret={add.data?.id === hook.id ? add.data.secret : undefined}
              busy={attempt.isPending && attempt.variables === hook.id}
              onTry={() => attempt.mutate(hook.id)}
              onForget={() => forget.mutate(hook.id)}
            />
          ))}
        </ul>
      )}
      {hooks?.length === 0 && (
        <p className="mb-4 rounded-md border border-dashed border-rule p-6 text-center text-second">
          Nobody is told yet. A build server or a chat of your own gets one signed message for each
          delivery: which sets, which targets, where the files lie.
        </p>
      )}
      <NewAddress
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

interface AddressProps {
  hook: HookRead;
  /** Known only right after it was made. */
  secret: string | undefined;
  busy: boolean;
  onTry: () => void;
  onForget: () => void;
}

function Address({ hook, secret, busy, onTry, onForget }: AddressProps) {
  return (
    <li className="py-2.5">
      <div className="flex items-center gap-2">
        <span className="min-w-0 grow truncate figures" title={hook.url}>
          {hook.url}
        </span>
        <Button look="small" aria-label={`Call ${hook.url} now`} disabled={busy} onClick={onTry}>
          {busy ? "Calling…" : "Call it now"}
        </Button>
        <Button look="small" aria-label={`Tell ${hook.url} no more`} onClick={onForget}>
          Tell no more
        </Button>
      </div>
      <p className={`text-small ${hook.last_error ? "text-wrong" : "text-second"}`}>{told(hook)}</p>
      {secret && (
        <p className="mt-1.5 flex items-center gap-2 rounded-sm bg-ochre-pale px-2 py-1.5">
          <span className="shrink-0">Its secret, shown only now:</span>
          <CopyText text={secret} label="Copy the secret" />
        </p>
      )}
    </li>
  );
}

function told({ last_called_at, last_error }: HookRead): string {
  if (!last_called_at) return "not called yet";
  if (last_error) return `△ could not be told ${when(last_called_at)}: ${last_error}`;
  return `✓ took what it was told ${when(last_called_at)}`;
}

interface NewAddressProps {
  busy: boolean;
  onAdd: (url: string, done: () => void) => void;
}

function NewAddress({ busy, onAdd }: NewAddressProps) {
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
        <span className="mb-1 block text-small font-medium text-second">Address to tell</span>
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
        Tell it from now on
      </Button>
    </form>
  );
}

function useHooks(project: string) {
  const client = useQueryClient();
  const onSuccess = () => refresh(client, queries.hooks(project).queryKey);
  const add = useMutation({
    mutationFn: (url: string) =>
      answer(
        api.POST("/api/projects/{project}/hooks", { params: { path: { project } }, body: { url } }),
      ),
    onSuccess,
  });
  const one = (hook_id: number) => ({ params: { path: { hook_id } } });
  const attempt = useMutation({
    mutationFn: (id: number) => answer(api.POST("/api/hooks/{hook_id}/tries", one(id))),
    onSuccess,
  });
  const forget = useMutation({
    mutationFn: (id: number) => done(api.DELETE("/api/hooks/{hook_id}", one(id))),
    onSuccess,
  });
  return { add, attempt, forget };
}
