// A delivery: progress of its parts, then the verification by file and channel.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, RotateCcw, X } from "lucide-react";
import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { answer, api, type DeliveryRead } from "@/api/client";
import { isUnderWay, queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { Button, buttonClass } from "@/parts/button";
import { useTitle } from "@/parts/title";
import { DeliveredPart } from "./delivered-part";
import { DeliveryActions } from "./delivery-actions";
import { StateBadge } from "./history";
import { Progress, RunningPart } from "./running-delivery";
import { TexturedModels } from "./textured-models";
import { useTargetTitles } from "./use-target-titles";

const FEW = 8; // maximum number of expanded parts

export function DeliveryPage() {
  useTitle("Delivery");
  const project = useProject();
  const id = Number(useParams().deliveryId);
  const client = useQueryClient();
  const { data: delivery, error } = useQuery(queries.delivery(id));
  const state = delivery?.state;
  useEffect(() => {
    if (state === "done") void refresh(client, queries.tray(project).queryKey);
  }, [state, client, project]);
  const path = { params: { path: { delivery_id: id } } };
  const onSettled = () => refresh(client, ["jobs"], queries.delivery(id).queryKey);
  const cancel = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/deliveries/{delivery_id}/cancel", path)),
    onSettled,
  });
  const retry = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/deliveries/{delivery_id}/retry", path)),
    onSettled,
  });
  if (error) return <p className="m-4 rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>;
  if (!delivery) return null;
  const there = delivery.parts.filter(
    (part) => part.disk_state === "intact" || part.bytes_kept,
  ).length;
  const isWhole = there === delivery.parts.length;
  const again = delivery.counts.failed + delivery.counts.cancelled;
  return (
    <div className="px-4 pb-6">
      <div className="flex h-bar items-center gap-3">
        <Link to={`/${project}/deliveries`} className="text-second hover:text-ink">
          Deliveries
        </Link>
        <span className="text-second">/</span>
        <h1 className="text-title font-semibold">Delivery {delivery.id}</h1>
        <StateBadge delivery={delivery} />
        <span className="ml-auto" />
        {isUnderWay(delivery) && (
          <Button disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            <X className="size-4" /> Cancel
          </Button>
        )}
        {!isUnderWay(delivery) && again > 0 && (
          <Button disabled={retry.isPending} onClick={() => retry.mutate()}>
            <RotateCcw className="size-4" /> Retry {again} {again === 1 ? "part" : "parts"}
          </Button>
        )}
        {delivery.state === "done" && <DeliveryActions delivery={delivery} />}
        {!isUnderWay(delivery) && there > 0 && (
          <a
            href={`/api/v1/deliveries/${delivery.id}/files.zip`}
            download
            className={buttonClass("main")}
          >
            <Download className="size-4" />{" "}
            {isWhole ? "Download zip" : `Download zip (${there} of ${delivery.parts.length})`}
          </a>
        )}
      </div>
      {isUnderWay(delivery) && <Progress delivery={delivery} />}
      <DeliveryResult delivery={delivery} isWhole={isWhole} />
      {delivery.state === "done" && isWhole && <TexturedModels deliveryId={delivery.id} />}
      {inOrder(delivery).map((part) =>
        part.state === "done" ? (
          <DeliveredPart
            key={part.n}
            delivery={delivery}
            part={part}
            opened={delivery.parts.length <= FEW}
          />
        ) : (
          <RunningPart key={part.n} part={part} />
        ),
      )}
    </div>
  );
}

const NAMED = 3;

/** Parts whose files have changed, the first few by name. */
function missing({ parts }: DeliveryRead, titleOf: (id: string) => string): string {
  const gone = parts.filter((part) => part.disk_state !== "intact" && !part.bytes_kept);
  const named = gone
    .slice(0, NAMED)
    .map((part) => `${part.set_name} for ${titleOf(part.target_id)}`);
  const more = gone.length - named.length;
  return more > 0 ? `${named.join(", ")} and ${more} more` : named.join(", ");
}

const FIRST = ["failed", "running"];

/** Order of parts: failed, running, others. */
function inOrder({ parts }: DeliveryRead): DeliveryRead["parts"] {
  if (parts.length <= FEW) return parts;
  const rank = (state: string) => (FIRST.includes(state) ? FIRST.indexOf(state) : FIRST.length);
  return parts.toSorted((a, b) => rank(a.state) - rank(b.state));
}

/** Summary of the whole delivery in a sentence. */
function DeliveryResult({ delivery, isWhole }: { delivery: DeliveryRead; isWhole: boolean }) {
  const titleOf = useTargetTitles();
  const { done, parts } = delivery.counts;
  if (delivery.error)
    return (
      <p role="alert" className="mb-4 rounded-md bg-wrong-pale p-3 text-wrong">
        △ {delivery.error.replace(/\.$/, "")}.
      </p>
    );
  if (delivery.state === "cancelled")
    return (
      <p className="mb-4 text-second">
        Cancelled.{" "}
        {done === 0
          ? "No files were changed."
          : `${done} of ${parts} parts were delivered before; the others are unchanged.`}
      </p>
    );
  if (delivery.state === "done" && !isWhole)
    return (
      <p className="mb-4 rounded-md bg-ochre-pale p-3 text-ochre">
        ! Some files of this delivery were changed or deleted since: {missing(delivery, titleOf)}.
        The zip contains the rest. Deliver again to restore them.
      </p>
    );
  return null;
}
