// Settings of a file: format options, size, mip levels.
import { SlidersHorizontal } from "lucide-react";
import { Popover } from "radix-ui";
import type { Schemas } from "@/api/client";
import { Choice } from "@/parts/choice";
import { NumberField } from "@/parts/number-field";
import { Row, Tick } from "./form";
import { type FileSpec, sizeOf, sizeWord } from "./packing";

export type Format = Schemas["FormatRead"];

const USUAL_QUALITY = 95;
const ways: Record<string, string> = {
  rle: "runs",
  deflate: "deflate",
  none: "none",
  lossless: "lossless",
  lossy: "lossy",
  bc7: "BC7, 3 or 4 channels",
  bc5: "BC5, 2 channels",
  bc4: "BC4, 1 channel",
  bc3: "BC3, 4 channels",
  bc1: "BC1, 3 channels",
};
const sizes = [
  { value: "source", label: "target's setting" },
  { value: "half", label: "half" },
  { value: "quarter", label: "quarter" },
  { value: "at_most 512", label: "at most 512" },
  { value: "at_most 1024", label: "at most 1024" },
  { value: "at_most 2048", label: "at most 2048" },
] as const;

/** Settings that differ from the defaults, abbreviated. */
export function settingsText(file: FileSpec): string {
  const way = file.compression && (ways[file.compression] ?? file.compression).split(",")[0];
  const words = [
    way && `${way === "none" ? "none" : way}`,
    file.quality && `quality ${file.quality}`,
    file.tiles && "tiles",
    file.mips && "mips",
    file.dither && "dither",
    file.size.mode !== "source" && sizeWord(file.size).replace("_", " "),
  ];
  return words.filter(Boolean).join(" · ");
}

export function FileSettings({
  file,
  format,
  locked,
  onFacts,
}: {
  file: FileSpec;
  format: Format;
  locked: boolean;
  onFacts: (part: Partial<FileSpec>) => void;
}) {
  const lossy = format.lossy === true || file.compression === "lossy";
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`Write settings of ${file.suffix || file.name}`}
        title="Write settings"
        disabled={locked}
        className="px-0.5 text-second hover:text-ink disabled:opacity-40"
      >
        <SlidersHorizontal className="size-3.5" aria-hidden="true" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          collisionPadding={8}
          className="z-30 grid w-70 gap-2 rounded-sm border border-rule bg-card p-3"
        >
          <p className="font-medium">Write settings of {file.suffix || file.name}</p>
          {format.compressions.length > 0 && (
            <Row label="Compression">
              <Choice
                label="Compression"
                value={file.compression ?? "usual"}
                options={[
                  { value: "usual", label: "default" },
                  ...format.compressions.map((one) => ({ value: one, label: ways[one] ?? one })),
                ]}
                onChange={(way) => onFacts({ compression: way === "usual" ? null : way })}
              />
            </Row>
          )}
          {format.quality && lossy && (
            <Row label="Quality">
              <NumberField
                label="Quality"
                value={file.quality ?? USUAL_QUALITY}
                low={1}
                high={100}
                places={0}
                onCommit={(quality) => onFacts({ quality: Math.round(quality) })}
              />
            </Row>
          )}
          <Row label="Size">
            <Choice
              label="Size of the file"
              value={sizeWord(file.size)}
              options={sizes}
              onChange={(word) => onFacts({ size: sizeOf(word) })}
            />
          </Row>
          {format.tiles && (
            <Tick
              label="tiled"
              checked={file.tiles}
              onChange={(tiles) => onFacts({ tiles, mips: tiles && file.mips })}
            />
          )}
          {format.mips && (
            <Tick
              label="mipmaps"
              checked={file.mips}
              onChange={(mips) => onFacts({ mips, tiles: file.tiles || (mips && format.tiles) })}
            />
          )}
          {file.bits === 8 && (
            <Tick
              label="dither gradients"
              title="Blue noise of ± one code against banding. Never applied to masks, constant areas or z of normals."
              checked={file.dither}
              onChange={(dither) => onFacts({ dither })}
            />
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
