// Channels of a packed picture as thumbnails, each with its map.
import type { ArrivalRead, MapKind } from "@/api/client";
import { Hint } from "@/parts/marks";
import { Pick } from "./native-select";

interface Props {
  row: ArrivalRead;
  kinds: readonly { value: string; label: string }[];
  /** Only the changed channel, because the row may be outdated. */
  onChange: (channels: Record<string, MapKind | null>) => void;
}

export function Packed({ row, kinds, onChange }: Props) {
  return (
    <fieldset className="flex gap-2" aria-label={`Channels of ${row.name}`}>
      {row.channels.map((channel) => (
        <div key={channel.name} className="w-24.5">
          <Hint
            text={
              channel.reason
                ? `${channel.name}: ${channel.reason} (${Math.round(channel.confidence * 100)} %)`
                : `Channel ${channel.name}`
            }
          >
            <div className="relative h-11 overflow-hidden rounded-t-sm bg-ground">
              <img
                src={`/api/v1/arrivals/${row.id}/channel-${channel.name}.png`}
                alt={`Channel ${channel.name}`}
                loading="lazy"
                className="size-full object-cover"
              />
              <span className="absolute top-0.5 left-0.5 rounded-sm bg-ink/85 px-1 text-tiny text-sheet figures">
                {channel.name}
              </span>
            </div>
          </Hint>
          <Pick
            label={`Map in channel ${channel.name} of ${row.name}`}
            value={channel.kind ?? ""}
            options={[{ value: "", label: "unused" }, ...kinds]}
            className="w-full rounded-t-none text-small"
            onPick={(kind) => onChange({ [channel.name]: (kind || null) as MapKind | null })}
          />
        </div>
      ))}
    </fieldset>
  );
}
