// Recent calls of a webhook: time, status, start of the response.
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { api, done, type WebhookCallRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { when } from "@/parts/format";

export function WebhookCalls({ webhook }: { webhook: number }) {
  const client = useQueryClient();
  const { data, hasNextPage, fetchNextPage } = useInfiniteQuery(queries.webhookCalls(webhook));
  const [opened, setOpened] = useState<number | null>(null);
  const again = useMutation({
    mutationFn: (message_id: number) =>
      done(
        api.POST("/api/v1/webhooks/{webhook_id}/messages/{message_id}/sends", {
          params: { path: { webhook_id: webhook, message_id } },
        }),
      ),
    onSuccess: () => refresh(client, ["webhooks"]),
  });
  const calls = data?.pages.flat() ?? [];
  return (
    <div className="mt-2 max-h-72 overflow-auto rounded-sm border border-rule">
      <table className="w-full text-small">
        <thead className="sticky top-0 bg-sheet text-left text-second">
          <tr>
            <th className="px-2 py-1 font-medium">Time</th>
            <th className="px-2 py-1 font-medium">Event</th>
            <th className="px-2 py-1 text-right font-medium">Status</th>
            <th className="px-2 py-1 text-right font-medium">Duration</th>
            <th className="px-2 py-1 font-medium">Response</th>
            <th className="px-2 py-1" />
          </tr>
        </thead>
        <tbody>
          {calls.map((call) => (
            <Fragment key={call.id}>
              <CallRow
                call={call}
                isOpen={opened === call.id}
                onOpen={() => setOpened(opened === call.id ? null : call.id)}
                onAgain={() => again.mutate(call.message_id)}
              />
              {opened === call.id && (
                <tr>
                  <td colSpan={6} className="px-2 pb-2">
                    <pre className="max-h-40 overflow-auto rounded-sm bg-sheet p-2 whitespace-pre-wrap figures">
                      {call.excerpt}
                    </pre>
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
      {hasNextPage && (
        <Button look="small" className="m-2" onClick={() => fetchNextPage()}>
          Show older calls
        </Button>
      )}
    </div>
  );
}

interface CallRowProps {
  call: WebhookCallRead;
  isOpen: boolean;
  onOpen: () => void;
  onAgain: () => void;
}

function CallRow({ call, isOpen, onOpen, onAgain }: CallRowProps) {
  const what = call.error ?? (call.excerpt ? "OK" : "OK, empty");
  return (
    <tr className="border-t border-rule align-baseline">
      <td className="px-2 py-1 whitespace-nowrap">{when(call.called_at)}</td>
      <td className="px-2 py-1 whitespace-nowrap">
        {call.event}
        {call.delivery_id !== null && <span className="text-second"> {call.delivery_id}</span>}
      </td>
      <td className={`px-2 py-1 text-right figures ${call.error ? "text-wrong" : ""}`}>
        {call.status ?? "–"}
      </td>
      <td className="px-2 py-1 text-right whitespace-nowrap figures">
        {call.seconds.toFixed(2)} s
      </td>
      <td className={`max-w-72 px-2 py-1 ${call.error ? "text-wrong" : "text-second"}`}>
        {call.excerpt ? (
          <button
            type="button"
            aria-expanded={isOpen}
            title={call.excerpt}
            className="block max-w-full truncate underline decoration-dotted underline-offset-3"
            onClick={onOpen}
          >
            {what}
          </button>
        ) : (
          <span className="block truncate" title={what}>
            {what}
          </span>
        )}
      </td>
      <td className="px-2 py-1 text-right">
        {call.state === "waiting" ? (
          <span className="text-second">Waiting</span>
        ) : (
          <Button look="small" onClick={onAgain}>
            Send again
          </Button>
        )}
      </td>
    </tr>
  );
}
