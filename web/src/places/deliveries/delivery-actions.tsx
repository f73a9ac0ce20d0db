// Actions on a finished delivery: contact sheet, comparison, restore its sets, repeat.
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { ChevronDown } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { answer, api, type DeliveryRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { useChange } from "@/places/tray/use-change";

const item =
  "block cursor-pointer px-3 py-1 outline-none data-disabled:text-second data-disabled:opacity-50 data-highlighted:bg-copper-pale";

export function DeliveryActions({ delivery }: { delivery: DeliveryRead }) {
  const project = useProject();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { data: all = [] } = useInfiniteQuery(queries.deliveries(project));
  const { change } = useChange(project);
  const others = all.filter((one) => one.state === "done" && one.id !== delivery.id);
  const nearest = others.find((one) => one.id < delivery.id) ?? others.at(-1);
  const again = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/deliveries/{delivery_id}/repetitions", {
          params: { path: { delivery_id: delivery.id } },
        }),
      ),
    onSuccess: async (asked) => {
      await refresh(client, ["jobs"], ["deliveries"], queries.board(project).queryKey);
      navigate(`/${project}/deliveries/${asked.id}`);
    },
  });
  const ids = [...new Set(delivery.parts.flatMap((part) => part.set_id ?? []))];
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="inline-flex h-control items-center gap-1.5 rounded-md border border-rule bg-sheet px-3 font-medium hover:bg-card">
        More <ChevronDown className="size-3.5 text-second" aria-hidden="true" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 rounded-sm border border-rule bg-card py-1"
        >
          <Page href={`/api/v1/deliveries/${delivery.id}/sheet.html`}>Contact sheet (HTML)</Page>
          <Page href={`/api/v1/deliveries/${delivery.id}/sheet.png`}>Contact sheet (PNG)</Page>
          <DropdownMenu.Item
            className={item}
            disabled={!nearest}
            onSelect={() => {
              if (!nearest) return;
              const [earlier, later] = [nearest.id, delivery.id].sort((a, b) => a - b);
              navigate(`/${project}/deliveries/${earlier}/compare/${later}`);
            }}
          >
            Compare with another delivery
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={item}
            disabled={ids.length === 0}
            onSelect={() =>
              change.mutate({ ids, change: { do: "restore", delivery_id: delivery.id } })
            }
          >
            Restore sets to this delivery
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={() => again.mutate()}>
            Repeat this delivery
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Page({ href, children }: { href: string; children: ReactNode }) {
  return (
    <DropdownMenu.Item asChild>
      <a href={href} target="_blank" rel="noreferrer" className={item}>
        {children}
      </a>
    </DropdownMenu.Item>
  );
}
