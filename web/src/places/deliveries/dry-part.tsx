// Preview of one set for one target: every file and its content.
import { useQuery } from "@tanstack/react-query";
import type { DryRunPartRead } from "@/api/client";
import { queries } from "@/api/queries";
import { CopyText } from "@/parts/copy-text";
import { underRoot, words } from "@/parts/format";
import { RemarkLine } from "@/parts/marks";

/** Channels of a file in a line: "R occlusion · G roughness · B metallic". */
export function contentsOf(
  channels: { channel: string; map: string | null; constant?: number | null; holds?: string }[],
): string {
  const [first] = channels;
  const plain = channels.every((one) => one.channel === "A" || !/[,;×]/.test(one.holds ?? ""));
  const maps = new Set(channels.filter((one) => one.channel !== "A").map((one) => one.map));
  if (plain && maps.size === 1 && first?.map && channels.length > 1) {
    const alpha = channels.find((one) => one.channel === "A");
    const inAlpha = alpha && (alpha.holds ?? words(alpha.map ?? String(alpha.constant)));
    return `${words(first.map)}${inAlpha ? ` · A ${inAlpha}` : ""}`;
  }
  return channels
    .map((one) => `${one.channel} ${one.holds ?? words(one.map ?? String(one.constant))}`)
    .join(" · ");
}

const states = {
  new: "new",
  replaces: "replaces",
  unchanged: "unchanged",
  foreign: "skipped",
  left: "stays from an earlier delivery",
} as const;

export function DryPart({ part, title }: { part: DryRunPartRead; title: string | undefined }) {
  const root = useQuery(queries.health()).data?.delivery_root;
  return (
    <div className="mb-5 last:mb-0">
      <div className="mb-1 flex items-baseline gap-2.5">
        <h2 className="font-semibold">{part.set_name}</h2>
        <span className="text-second">for {title ?? part.target_id}</span>
        <span className="ml-auto min-w-0 text-second">
          <CopyText
            text={part.folder}
            shown={`${underRoot(part.folder, root)}/`}
            label="Copy full path"
          />
        </span>
      </div>
      {part.error && (
        <p className="rounded-sm bg-wrong-pale px-3 py-1.5 text-wrong">△ {part.error}</p>
      )}
      <table className="w-full table-fixed border-collapse">
        <colgroup>
          <col className="w-[27%]" />
          <col />
          <col className="w-26" />
          <col className="w-26" />
          <col className="w-16" />
          <col className="w-24" />
        </colgroup>
        <tbody>
          {part.files.map((file) => (
            <tr key={file.name} className="h-8 border-t border-rule">
              <td className="truncate figures font-medium">{file.name}</td>
              <td className="px-3">
                {contentsOf(file.channels)}
                {file.channels.some((one) => one.map === "normal") && ` · green ${part.normal_y}`}
              </td>
              <td className="px-3 text-second">
                {file.encoding === "srgb" ? "sRGB" : "linear data"}
              </td>
              <td className="text-right figures">
                {file.width} × {file.height}
              </td>
              <td className="pl-3 text-right whitespace-nowrap figures">
                {file.bits} bit
                {(file.tiles || file.mips) && (
                  <span className="block text-note leading-none text-second">
                    {[file.tiles && "tiles", file.mips && "mips"].filter(Boolean).join(" · ")}
                  </span>
                )}
              </td>
              <td className="pl-3 text-right text-second">{states[file.state]}</td>
            </tr>
          ))}
          {Object.entries(part.other_files).map(([name, state]) => (
            <tr key={name} className="h-8 border-t border-rule">
              <td className="truncate figures font-medium">{name}</td>
              <td className="px-3" colSpan={4}>
                {state === "left"
                  ? "from an earlier delivery, not part of this one"
                  : aboutDocument(name)}
              </td>
              <td className="pl-3 text-right text-second">
                {states[state as keyof typeof states] ?? state}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {part.remarks
        .filter(({ weight }) => weight !== "info")
        .map((remark) => (
          <RemarkLine key={remark.text} {...remark} />
        ))}
    </div>
  );
}

function aboutDocument(name: string): string {
  if (/\.(glb|usdz)$/.test(name)) return "embeds the textures above";
  if (name.endsWith("manifest.json")) return "list of files, channels and checksums";
  return "material that references the textures above";
}
