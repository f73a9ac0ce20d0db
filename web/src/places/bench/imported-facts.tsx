// An imported map: its file, and how its codes are interpreted.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Imported, KindRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Choice } from "@/parts/choice";
import { bytes } from "@/parts/format";
import { Segmented } from "@/parts/segmented";
import { Column } from "./column";
import { editing } from "./map-definitions";
import { ChannelChoice, greens } from "./slot-field";
import type { DraftState } from "./use-draft";

interface Props {
  kind: KindRead;
  definition: Imported & { how: "imported" };
  state: DraftState;
}

const curves = [
  { value: "none", label: "linear (as stored)" },
  { value: "encoded", label: "too light (remove sRGB curve)" },
  { value: "decoded", label: "too dark (apply sRGB curve)" },
] as const;

interface OrderProps {
  definition: Imported;
  has: string[];
  onChange: (part: Partial<Imported>) => void;
}

/** Channels that contain x, y and z, and a transfer curve that was applied by mistake. */
function OrderAndCurve({ definition, has, onChange }: OrderProps) {
  const now = definition.channels ?? "RGB";
  const usual = ["RGB", "RG", "GRB", "BGR", "RBG", ...(has.includes("A") ? ["AG"] : [])];
  const orders = usual.includes(now) ? usual : [...usual, now];
  return (
    <div className="mt-1.5 flex flex-col gap-1.5">
      <Choice
        label="Channels for x, y, z"
        value={now}
        options={orders.map((value) => ({ value, label: inWords(value) }))}
        onChange={(channels) => onChange({ channels })}
      />
      <Choice
        label="Transfer curve"
        value={definition.curve ?? "none"}
        options={curves}
        onChange={(curve) => onChange({ curve: curve as NonNullable<Imported["curve"]> })}
      />
    </div>
  );
}

function inWords(channels: string): string {
  const [x, y, z] = channels;
  return `x ${x} · y ${y} · ${z ? `z ${z}` : "z computed"}`;
}

export function ImportedFacts({ kind, definition, state }: Props) {
  const tiles = Object.entries(definition.tiles ?? {});
  const [tile, setTile] = useState(tiles[0]?.[0] ?? "");
  const source = definition.tiles?.[tile] ?? definition.source;
  const { data: facts } = useQuery(queries.source(source));
  if (!facts) return null;
  const summary =
    facts.encoding_source === "assumed" ? "assumed: the file has no tag" : facts.encoding_source;
  const change = (part: Partial<Imported>) =>
    state.commit(editing(kind.kind, definition, (now) => ({ ...now, ...part })));
  // Color encoding doesn't apply to data in a gray image.
  const asks = kind.meaning !== "data" || facts.channels.length > 1;
  return (
    <>
      <Column title={tiles.length > 0 ? `${tiles.length} files, one per tile` : "File"}>
        {tiles.length > 0 && (
          <div className="mb-1.5">
            <Segmented
              label="Tile whose file is shown"
              value={tile}
              options={tiles.map(([number]) => ({ value: number, label: number }))}
              onChange={setTile}
            />
          </div>
        )}
        <p className="truncate font-medium" title={facts.file_name}>
          {facts.file_name}
        </p>
        <p className="text-second figures">
          {facts.format.toUpperCase()} · {facts.width} × {facts.height} · {facts.channels.join("")}{" "}
          · {facts.bit_depth} bit · {bytes(facts.bytes)}
        </p>
        <a
          className="mt-1.5 inline-block text-copper underline underline-offset-2"
          href={`/api/v1/sources/${source}/original`}
        >
          Download original
        </a>
      </Column>
      {asks && (
        <Column title="Read as" wide={false}>
          {kind.meaning === "color" && (
            <>
              <Segmented
                label="Color encoding"
                value={definition.encoding ?? "srgb"}
                options={[
                  { value: "srgb", label: "sRGB" },
                  { value: "linear", label: "Linear" },
                ]}
                onChange={(encoding) => change({ encoding })}
              />
              <p className="mt-1 text-small text-second">{summary}</p>
            </>
          )}
          {kind.meaning === "normal" && (
            <>
              <Segmented
                label="Green channel"
                value={definition.normal_y ?? "up"}
                options={greens}
                onChange={(normal_y) => change({ normal_y })}
              />
              <p className="mt-1 text-small text-second">
                Y+: green increases toward the top of the picture
              </p>
              <OrderAndCurve definition={definition} has={facts.channels} onChange={change} />
            </>
          )}
          {kind.meaning === "data" && facts.channels.length > 1 && (
            <ChannelChoice
              label="Channel"
              value={definition.channels ?? "RGB"}
              has={facts.channels}
              onChange={(channels) => change({ channels })}
            />
          )}
        </Column>
      )}
    </>
  );
}
