// One delivery: progress while it runs, then the assay, file by file and channel by channel.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, Download, X } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { answer, api, type DeliveryRead } from "@/api/client";
import { isUnderWay, queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { useProject } from "@/app";
import { Button, buttonClass } from "@/parts/button";
import { bytes, underRoot, words } from "@/parts/figures";
import { useTitle } from "@/parts/title";
import { type ChannelOf, ChannelViewer } from "./channel-viewer";
import { StateBadge } from "./history";
import { OldDelivery } from "./old-delivery";

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
  const cancel = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/deliveries/{delivery_id}/cancel", { params: { path: { delivery_id: id } } }),
      ),
    onSettled: () => refresh(client, queries.delivery(id).queryKey),
  });
  if (error) return <p className="m-4 rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>;
  if (!delivery) return null;
  const isWhole = delivery.parts.every((part) => part.lies === "own");
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
          <Button
            disabled={delivery.cancel_requested || cancel.isPending}
            onClick={() => cancel.mutate()}
          >
            <X className="size-4" /> {delivery.cancel_requested ? "Stopping…" : "Cancel"}
          </Button>
        )}
        {delivery.state === "done" && <OldDelivery delivery={delivery} />}
        {delivery.state === "done" && isWhole && (
          <a
            href={`/api/deliveries/${delivery.id}/files.zip`}
            download
            className={buttonClass("main")}
          >
            <Download className="size-4" /> Download zip
          </a>
        )}
      </div>
      {isUnderWay(delivery) && <Progress delivery={delivery} />}
      {delivery.error && (
        <p role="alert" className="mb-4 rounded-md bg-wrong-pale p-3 text-wrong">
          △ {delivery.error.replace(/\.$/, "")}.
        </p>
      )}
      {delivery.state === "cancelled" && (
        <p className="mb-4 text-second">Stopped on request; nothing was replaced.</p>
      )}
      {delivery.state === "done" && !isWhole && (
        <p className="mb-4 rounded-md bg-ochre-pale p-3 text-ochre">
          ! Not everything of this delivery lies there any more as it wrote it, so there is no zip
          of it. What it proved then is below; deliver again to have it anew.
        </p>
      )}
      {delivery.parts.map(
        (part) =>
          part.manifest && part.assay && <Part key={part.n} delivery={delivery} part={part} />,
      )}
    </div>
  );
}

function timeLeft(delivery: DeliveryRead): string {
  if (!delivery.started_at || delivery.progress < 0.05) return "";
  const spent = (Date.now() - new Date(delivery.started_at).getTime()) / 1000;
  const left = Math.max(1, Math.round((spent * (1 - delivery.progress)) / delivery.progress));
  return `about ${left < 90 ? `${left} s` : `${Math.round(left / 60)} min`} left`;
}

function Progress({ delivery }: { delivery: DeliveryRead }) {
  const share = Math.round(delivery.progress * 100);
  return (
    <div className="mb-4 rounded-md border border-rule bg-card p-4">
      <div
        role="progressbar"
        aria-label="Delivery"
        aria-valuenow={share}
        aria-valuemin={0}
        aria-valuemax={100}
        className="h-1.5 overflow-hidden rounded-full bg-rule"
      >
        <div
          className="h-full bg-verdigris transition-[width] duration-300"
          style={{ width: `${share}%` }}
        />
      </div>
      <p className="mt-2 flex text-second">
        {delivery.step || "waiting for a worker"}
        <span className="ml-auto figures">
          {share} % {timeLeft(delivery)}
        </span>
      </p>
    </div>
  );
}

type PartRead = DeliveryRead["parts"][number];

/** What lies in the folder now instead of the files that this delivery proved. */
function LiesThere({ part }: { part: PartRead }) {
  const project = useProject();
  return (
    <span role="status" className="ml-3 text-list text-ochre">
      ! proven then, but{" "}
      {part.replaced_by ? (
        <>
          replaced by{" "}
          <Link to={`/${project}/deliveries/${part.replaced_by}`} className="underline">
            delivery {part.replaced_by}
          </Link>
        </>
      ) : (
        part.lies_text
      )}
    </span>
  );
}

function Part({ delivery, part }: { delivery: DeliveryRead; part: PartRead }) {
  const { manifest, assay } = part;
  const root = useQuery(queries.health()).data?.delivery_root;
  const [viewed, setViewed] = useState<ChannelOf | null>(null);
  if (!manifest || !assay) return null;
  const checks = new Map(assay.files.map((file) => [file.name, file]));
  const channels = assay.files.reduce((sum, file) => sum + (file.channels?.length ?? 0), 0);
  return (
    <section
      aria-label={`${part.set_name} for ${part.target_id}`}
      className="mb-5 rounded-md border border-rule bg-card"
    >
      <header className="flex items-baseline gap-2.5 border-b border-rule bg-sheet px-4 py-2">
        <h2 className="font-semibold">{part.set_name}</h2>
        <span className="text-second">for {manifest.target_title}</span>
        {part.lies === "own" ? (
          <span className="ml-3 text-list text-verdigris">
            ✓ {assay.files.length} files reopened, {channels} channels as expected
            {assay.files.some((file) => file.own_reader) && (
              <span className="ml-2 text-second">
                ({assay.files.filter((file) => file.own_reader).length} by the writer's own code: no
                other reader is at hand)
              </span>
            )}
          </span>
        ) : (
          <LiesThere part={part} />
        )}
        <span className="ml-auto truncate text-second figures" title={part.folder}>
          {underRoot(part.folder, root)}/
        </span>
      </header>
      <ul>
        {manifest.files.map((file) => (
          <li
            key={file.name}
            className="flex items-center gap-4 border-b border-rule px-4 py-2.5 last:border-b-0"
          >
            {part.lies === "own" || part.lies === "changed" ? (
              <img
                src={`/api/deliveries/${delivery.id}/parts/${part.n}/files/${encodeURIComponent(file.name)}/picture.png`}
                alt={`${file.name} as it lies on the disk`}
                className="size-18 rounded-sm border border-rule bg-ground object-cover"
              />
            ) : (
              <span className="grid size-18 place-items-center rounded-sm border border-rule bg-sheet text-center text-note text-second">
                {part.lies === "replaced" ? "replaced" : "gone"}
              </span>
            )}
            <div className="w-80 leading-snug">
              <p className="truncate font-medium figures">{file.name}</p>
              <p className="text-second figures">
                {file.width} × {file.height} · {file.format.toUpperCase()} {file.bits} bit ·{" "}
                {bytes(file.bytes)}
              </p>
              <p className="text-second">
                {[
                  file.encoding === "srgb" ? "sRGB color" : "linear data",
                  file.tiles && "tiles",
                  (file.mips_digests?.length ?? 0) > 0 && `${file.mips_digests?.length} mips`,
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </p>
            </div>
            <table className="border-collapse">
              <thead>
                <tr className="text-small text-second">
                  <th className="w-10 text-left font-medium">Ch.</th>
                  <th className="w-56 text-left font-medium">holds</th>
                  <th className="w-32 text-right font-medium">largest difference</th>
                  <th className="w-24 text-right font-medium">mean</th>
                </tr>
              </thead>
              <tbody>
                {checks.get(file.name)?.channels?.map((channel) => (
                  <tr key={channel.channel}>
                    <td className="font-medium">{channel.channel}</td>
                    <td>
                      <button
                        type="button"
                        disabled={part.lies === "replaced" || part.lies === "gone"}
                        title="Compare it with its source"
                        aria-label={`Hold ${channel.channel} of ${file.name} against its source`}
                        className="text-left enabled:underline decoration-rule underline-offset-2 enabled:hover:text-copper"
                        onClick={() =>
                          setViewed({
                            delivery: delivery.id,
                            part: part.n,
                            file: file.name,
                            letter: channel.channel,
                          })
                        }
                      >
                        {words(channel.holds)}
                      </button>
                      {channel.holds === "normal y" && ` · green ${manifest.normal_y}`}
                    </td>
                    <td className="text-right figures">{channel.largest ?? "?"}</td>
                    <td className="text-right figures">{channel.mean?.toFixed(2) ?? "?"}</td>
                    <td className="pl-3">
                      {channel.ok && part.lies !== "own" ? (
                        <Check className="size-4 text-second" aria-label="proven then" />
                      ) : channel.ok ? (
                        <Check className="size-4 text-verdigris" aria-label="proven" />
                      ) : (
                        <X className="size-4 text-wrong" aria-label="differs" />
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </li>
        ))}
        {manifest.documents?.map((document) => (
          <li
            key={document.name}
            className="flex items-center gap-4 border-b border-rule px-4 py-2.5 last:border-b-0"
          >
            <span className="grid size-18 place-items-center rounded-sm border border-rule bg-sheet figures">
              .{document.format}
            </span>
            <div className="w-80 leading-snug">
              <p className="truncate font-medium figures">{document.name}</p>
              <p className="text-second figures">{bytes(document.bytes)}</p>
            </div>
            <p className="flex items-center gap-2">
              {["glb", "usdz"].includes(document.format)
                ? `carries ${document.textures.length} textures, the same bytes as beside it`
                : `joins ${document.textures.length} textures that lie beside it`}
              <Check className="size-4 text-verdigris" aria-label="proven" />
            </p>
          </li>
        ))}
      </ul>
      {viewed && <ChannelViewer of={viewed} onClose={() => setViewed(null)} />}
      {(manifest.remarks ?? []).map((remark) => (
        <p key={remark} className="px-4 py-1.5 text-list text-second">
          · {remark}
        </p>
      ))}
    </section>
  );
}
