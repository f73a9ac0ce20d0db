// Footer of a file: name pattern and example, format, size, preview.
import { X } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/parts/button";
import { bytes } from "@/parts/format";
import { FileSettings, type Format, settingsText } from "./file-settings";
import { askedEncoding, type FileSpec, fittingFormats, inFormat } from "./packing";

interface Props {
  file: FileSpec;
  formats: Format[];
  tried: Schemas["TriedFileRead"] | undefined;
  /** Width of its columns in pixels. */
  width: number;
  /** The set doesn't get this file. */
  leftOut: boolean;
  locked: boolean;
  onFacts: (part: Partial<FileSpec>) => void;
  onRemove: (() => void) | null;
}

const titles: Record<string, string> = {
  png: "PNG",
  tga: "TGA",
  tiff: "TIFF",
  exr: "EXR",
  hdr: "HDR",
  webp: "WebP",
  jpeg: "JPEG, lossy",
  dds: "DDS",
  ktx2: "KTX2",
};

function depthOf(format: Format, bits: number): string {
  if (format.bits.length === 1) return format.floating_bits.length > 0 ? " float" : "";
  if (!format.floating_bits.includes(bits)) return ` ${bits}`;
  return bits === 16 ? " half" : " float";
}

const encodings = [
  { value: "srgb", label: "sRGB" },
  { value: "linear", label: "data" },
] as const;
const select =
  "h-6 min-w-0 cursor-pointer appearance-none rounded-sm border border-rule bg-card px-1.5 text-small hover:bg-sheet disabled:cursor-default disabled:bg-sheet";

export function FileFoot(props: Props) {
  const { file, formats, tried, width, leftOut, locked, onFacts, onRemove } = props;
  const format = formats.find((one) => one.name === file.format);
  const settings = settingsText(file);
  return (
    <div className="grid grid-cols-1 gap-1 p-1.5 text-left" style={{ width }}>
      <div className="grid grid-cols-[1fr_58px] gap-1">
        <Text
          label="Name pattern"
          value={file.name}
          locked={locked}
          onCommit={(name) => onFacts({ name })}
        />
        <Text
          label="Suffix"
          hint={
            file.name.includes("{suffix}")
              ? undefined
              : "The name pattern doesn't contain {suffix}. Add it to use one."
          }
          value={file.suffix}
          locked={locked || !file.name.includes("{suffix}")}
          onCommit={(suffix) => onFacts({ suffix })}
        />
      </div>
      <output
        aria-label={`Name of ${file.suffix || file.name}`}
        className="truncate text-note figures"
        title={tried?.name}
      >
        {tried?.name ?? (leftOut ? "skipped for this set" : "…")}
      </output>
      <div className="flex gap-1">
        <select
          aria-label="Format"
          disabled={locked}
          className={`${select} grow`}
          value={`${file.format} ${file.bits}`}
          onChange={(event) => {
            const [format, bits] = event.target.value.split(" ");
            onFacts({
              ...inFormat(
                file,
                formats.find((one) => one.name === format),
              ),
              bits: Number(bits) as FileSpec["bits"],
            });
          }}
        >
          {fittingFormats(file, formats).flatMap((one) =>
            one.bits.map((bits) => (
              <option key={`${one.name} ${bits}`} value={`${one.name} ${bits}`}>
                {titles[one.name] ?? one.name}
                {depthOf(one, bits)}
              </option>
            )),
          )}
        </select>
        <select
          aria-label="Encoding"
          disabled={locked}
          className={`${select} w-11.5 shrink-0`}
          value={file.encoding}
          onChange={(event) => onFacts({ encoding: event.target.value as FileSpec["encoding"] })}
          title={
            askedEncoding(file) && askedEncoding(file) !== file.encoding && file.bits < 32
              ? "Doesn't match the maps in this file"
              : "Set automatically from the maps until you choose"
          }
        >
          {encodings.map((one) => (
            <option key={one.value} value={one.value}>
              {one.label}
            </option>
          ))}
        </select>
        {format && <FileSettings file={file} format={format} locked={locked} onFacts={onFacts} />}
        {onRemove && (
          <Button
            aria-label={`Remove ${file.suffix || file.name}`}
            title="Remove this file"
            look="away"
            onClick={onRemove}
          >
            <X className="size-3.5" aria-hidden="true" />
          </Button>
        )}
      </div>
      {settings && <p className="text-note text-second">{settings}</p>}
      {tried && (
        <>
          <p className="text-note text-second figures">
            {tried.width} × {tried.height} · {bytes(tried.memory.blocks)} {tried.memory.format}
          </p>
          {tried.memory.remark && (
            <p className="text-note leading-tight text-ochre">△ {tried.memory.remark}</p>
          )}
          <span className="flex gap-1">
            <img
              src={tried.picture}
              alt={`${tried.name}, preview`}
              className="h-18 max-w-full rounded-sm bg-ground object-contain"
            />
            {tried.alpha && (
              <img
                src={tried.alpha}
                alt={`${tried.name}, alpha`}
                title="alpha"
                className="h-18 max-w-full rounded-sm bg-ground object-contain"
              />
            )}
          </span>
        </>
      )}
    </div>
  );
}

function Text({
  label,
  hint,
  value,
  locked,
  onCommit,
}: {
  label: string;
  hint?: string | undefined;
  value: string;
  locked: boolean;
  onCommit: (value: string) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const accept = () => {
    if (typed !== null && typed !== value) onCommit(typed);
    setTyped(null);
  };
  return (
    <input
      aria-label={label}
      title={hint ?? label}
      disabled={locked}
      className="h-6 w-full min-w-0 rounded-sm border border-rule bg-card px-1 text-note figures disabled:bg-sheet"
      value={typed ?? value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={accept}
      onKeyDown={(event) => event.key === "Enter" && accept()}
    />
  );
}
