// Past deliveries, newest first.
import { useInfiniteQuery } from "@tanstack/react-query";
import { Check, Clock3, X } from "lucide-react";
import { Link } from "react-router";
import type { DeliveryRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { when } from "@/parts/format";
import { Badge } from "@/parts/marks";

/** Disk states of a delivery's files, the most severe first. */
const OTHERWISE = ["missing", "modified", "replaced"] as const;

export function StateBadge({ delivery }: { delivery: DeliveryRead }) {
  switch (delivery.state) {
    case "done": {
      const other = OTHERWISE.find((one) => delivery.parts.some((part) => part.disk_state === one));
      return other ? (
        <Badge tone="stale">! {other} since</Badge>
      ) : (
        <Badge tone="good">
          <Check className="size-3.5" aria-hidden="true" /> verified
        </Badge>
      );
    }
    case "failed":
      return (
        <Badge tone="wrong">
          <X className="size-3.5" aria-hidden="true" /> failed
        </Badge>
      );
    case "cancelled":
      return <Badge tone="stale">cancelled</Badge>;
    default:
      return (
        <Badge tone="calm">
          <Clock3 className="size-3.5" aria-hidden="true" />
          {delivery.state === "queued" ? "waiting" : `${Math.round(delivery.progress * 100)} %`}
        </Badge>
      );
  }
}

export function History({ project }: { project: string }) {
  const {
    data: all,
    hasNextPage,
    fetchNextPage,
    isFetchingNextPage,
  } = useInfiniteQuery(queries.deliveries(project));
  if (!all) return null;
  if (all.length === 0) return <p className="p-6 text-center text-second">No deliveries yet.</p>;
  return (
    <section aria-label="Delivery history" className="min-h-0 overflow-auto">
      <ul className="rounded-md border border-rule bg-card">
        {all.map((delivery) => (
          <li key={delivery.id} className="border-b border-rule last:border-b-0">
            <Link
              to={`/${project}/deliveries/${delivery.id}`}
              className="flex h-10 items-center gap-4 px-4 hover:bg-sheet"
            >
              <span className="w-8 figures">{delivery.id}</span>
              <StateBadge delivery={delivery} />
              <span className="truncate">
                {[...new Set(delivery.parts.map((part) => part.set_name))].join(", ")}
                <span className="text-second">
                  {" "}
                  for {[...new Set(delivery.parts.map((part) => part.target_id))].join(", ")}
                </span>
              </span>
              <span className="ml-auto text-second figures">{when(delivery.created_at)}</span>
            </Link>
          </li>
        ))}
      </ul>
      {hasNextPage && (
        <Button className="mt-3" disabled={isFetchingNextPage} onClick={() => fetchNextPage()}>
          Show older deliveries
        </Button>
      )}
    </section>
  );
}
