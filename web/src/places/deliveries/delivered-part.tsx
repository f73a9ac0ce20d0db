// A delivered part: its files, and the verification of each channel.
import { useQuery } from "@tanstack/react-query";
import { Check, ChevronDown, ChevronRight, X } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import type { DeliveredPartRead, DeliveryRead } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { bytes, underRoot, words } from "@/parts/format";
import { type ChannelOf, ChannelViewer } from "./channel-viewer";
import { useTargetTitles } from "./use-target-titles";

type PartRead = DeliveryRead["parts"][number];

interface LiesThereProps {
  part: Pick<PartRead, "replaced_by" | "disk_state_text">;
  /** Its bytes are in the content store. */
  kept: boolean;
}

/** Files in the folder that replaced this delivery's verified files. */
function LiesThere({ part, kept }: LiesThereProps) {
  const project = useProject();
  return (
    <span role="status" className="text-list text-ochre">
      ! Verified when delivered, but{" "}
      {part.replaced_by ? (
        <>
          overwritten by{" "}
          <Link to={`/${project}/deliveries/${part.replaced_by}`} className="underline">
            delivery {part.replaced_by}
          </Link>
        </>
      ) : (
        part.disk_state_text
      )}
      {kept && "; the zip contains the delivered version"}
    </span>
  );
}

interface Props {
  delivery: DeliveryRead;
  part: PartRead;
  opened: boolean;
}

export function DeliveredPart({ delivery, part, opened }: Props) {
  const [open, setOpen] = useState(opened);
  const titleOf = useTargetTitles();
  const root = useQuery(queries.health()).data?.delivery_root;
  const { data: whole } = useQuery({
    ...queries.deliveredPart(delivery.id, part.n),
    enabled: open,
  });
  const now = whole ?? part;
  const isOwn = now.disk_state === "intact" || now.disk_state === null;
  return (
    <section
      aria-label={`${part.set_name} for ${part.target_id}`}
      className="mb-2 rounded-md border border-rule bg-card"
    >
      <header className="flex items-baseline gap-2.5 rounded-t-md bg-sheet px-4 py-2">
        <button
          type="button"
          aria-expanded={open}
          aria-label={`Files of ${part.set_name} for ${part.target_id}`}
          className="self-center text-second hover:text-ink"
          onClick={() => setOpen(!open)}
        >
          {open ? <ChevronDown className="size-4" /> : <ChevronRight className="size-4" />}
        </button>
        <h2 className="w-56 shrink-0 truncate font-semibold" title={part.set_name}>
          {part.set_name}
        </h2>
        <span className="w-48 shrink-0 truncate text-second">
          for {whole?.manifest?.target_title ?? titleOf(part.target_id)}
        </span>
        {isOwn ? (
          <Proven part={part} assay={whole?.assay ?? null} />
        ) : (
          <LiesThere part={now} kept={part.bytes_kept} />
        )}
        <span className="ml-auto truncate text-second figures" title={part.folder}>
          {underRoot(part.folder, root)}/
        </span>
      </header>
      {open && whole && <Files delivery={delivery.id} n={part.n} whole={whole} />}
    </section>
  );
}

/** Number of verified channels, and of unchanged files. */
function Proven({ part, assay }: { part: PartRead; assay: DeliveredPartRead["assay"] }) {
  const channels = assay?.files.reduce((sum, file) => sum + (file.channels?.length ?? 0), 0);
  const own = assay?.files.filter((file) => file.own_reader).length ?? 0;
  const files = assay?.files.length ?? part.written + part.kept;
  const words =
    part.written === 0 && part.kept > 0
      ? `all ${files} files unchanged`
      : `${files} files verified`;
  return (
    <span className="text-list text-verdigris">
      ✓ {words}
      {channels !== undefined && `, ${channels} channels as expected`}
      {part.kept > 0 && part.written > 0 && (
        <span className="ml-2 text-second">({part.kept} unchanged)</span>
      )}
      {own > 0 && (
        <span className="ml-2 text-second">({own} checked only with the code that wrote them)</span>
      )}
    </span>
  );
}

interface FilesProps {
  delivery: number;
  n: number;
  whole: DeliveredPartRead;
}

function Files({ delivery, n, whole }: FilesProps) {
  const { manifest, assay, disk_state } = whole;
  const [viewed, setViewed] = useState<ChannelOf | null>(null);
  if (!manifest || !assay) return null;
  const checks = new Map(assay.files.map((file) => [file.name, file]));
  return (
    <>
      <ul className="border-t border-rule">
        {manifest.files.map((file) => (
          <li
            key={file.name}
            className="flex items-center gap-4 border-b border-rule px-4 py-2.5 last:border-b-0"
          >
            {disk_state === "intact" || disk_state === "modified" ? (
              <img
                src={`/api/v1/deliveries/${delivery}/parts/${n}/files/${encodeURIComponent(file.name)}/picture.png`}
                alt={`${file.name}, current file on disk`}
                className="size-18 rounded-sm border border-rule bg-ground object-cover"
              />
            ) : (
              <span className="grid size-18 place-items-center rounded-sm border border-rule bg-sheet text-center text-note text-second">
                {disk_state === "replaced" ? "replaced" : "missing"}
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
                  <th className="w-56 text-left font-medium">content</th>
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
                        disabled={disk_state === "replaced" || disk_state === "missing"}
                        title="Compare with source"
                        aria-label={`Compare ${channel.channel} of ${file.name} with its source`}
                        className="text-left enabled:underline decoration-rule underline-offset-2 enabled:hover:text-copper"
                        onClick={() =>
                          setViewed({
                            delivery,
                            part: n,
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
                      {channel.ok && disk_state !== "intact" ? (
                        <Check
                          className="size-4 text-second"
                          aria-label="verified when delivered"
                        />
                      ) : channel.ok ? (
                        <Check className="size-4 text-verdigris" aria-label="verified" />
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
                ? `embeds ${document.textures.length} textures, identical to the files`
                : `references ${document.textures.length} textures`}
              <Check className="size-4 text-verdigris" aria-label="verified" />
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
    </>
  );
}
