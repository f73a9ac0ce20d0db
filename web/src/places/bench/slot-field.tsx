// Additional input of an operation: none, a picture, or a map of the set.
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { importMap, type KindRead, type MapKind, type SlotRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Choice } from "@/parts/choice";
import { notify } from "@/parts/notices";
import { useEndings } from "@/parts/pictures";
import { Segmented } from "@/parts/segmented";
import { Labelled } from "./controls";
import type { Filling } from "./map-definitions";

interface Props {
  slot: SlotRead;
  filling: Filling | undefined;
  /** Maps of the set that are possible inputs. */
  fitting: MapKind[];
  kinds: KindRead[];
  titleOf: (kind: MapKind) => string;
  onFill: (filling: Filling | undefined) => void;
}

export function SlotField({ slot, filling, fitting, kinds, titleOf, onFill }: Props) {
  const { pictures } = useEndings();
  const picker = useRef<HTMLInputElement>(null);
  const picture = filling?.how === "imported" ? filling : undefined;
  const { data: facts } = useQuery({
    ...queries.source(picture?.source ?? ""),
    enabled: picture !== undefined,
  });
  const meaning = kinds.find((one) => one.kind === slot.takes)?.meaning;
  const part = filling?.how === "part" ? filling : undefined;
  const value = !filling
    ? "none"
    : filling.how === "map"
      ? filling.kind
      : filling.how === "part"
        ? "part"
        : "picture";
  const options = [
    ...(slot.required ? [] : [{ value: "none", label: "none" }]),
    ...fitting.map((kind) => ({ value: kind, label: titleOf(kind).toLowerCase() })),
    ...(part
      ? [{ value: "part", label: `${titleOf(part.kind).toLowerCase()}, ${part.part}` }]
      : []),
    ...(picture ? [{ value: "picture", label: facts?.file_name ?? "a picture" }] : []),
    { value: "another", label: picture ? "another picture…" : "a picture…" },
  ];
  async function bring(file: File | undefined) {
    if (!file) return;
    try {
      onFill((await importMap(slot.takes, file)).definition);
    } catch (error) {
      notify("wrong", error instanceof Error ? error.message : `${file.name} couldn't be uploaded`);
    }
  }
  return (
    <>
      <Labelled label={slot.label} hint={slot.meaning}>
        <Choice
          label={slot.label}
          value={value}
          options={options}
          onChange={(next) => {
            if (next === "another") picker.current?.click();
            else if (next === "none") onFill(undefined);
            else if (next !== "picture" && next !== "part")
              onFill({ how: "map", kind: next as MapKind });
          }}
        />
        <input
          ref={picker}
          type="file"
          hidden
          accept={pictures}
          aria-label={`Picture for ${slot.label}`}
          onChange={(event) => {
            void bring(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
      </Labelled>
      {picture && meaning === "normal" && (
        <Labelled label="Green channel" hint="direction of the green channel in that picture">
          <Segmented
            label={`Green channel of ${slot.label}`}
            value={picture.normal_y ?? "up"}
            options={greens}
            onChange={(normal_y) => onFill({ ...picture, normal_y })}
          />
        </Labelled>
      )}
      {picture && meaning === "data" && facts && facts.channels.length > 1 && (
        <Labelled label="Channel" hint="channel of that picture to use">
          <ChannelChoice
            label={`Channel of ${slot.label}`}
            value={picture.channels ?? "RGB"}
            has={facts.channels}
            onChange={(channels) => onFill({ ...picture, channels })}
          />
        </Labelled>
      )}
    </>
  );
}

export const greens = [
  { value: "up", label: "Y+" },
  { value: "down", label: "Y−" },
] as const;

/** All channels as gray, or one channel of the file. */
export function ChannelChoice({
  label,
  value,
  has,
  onChange,
}: {
  label: string;
  value: string;
  has: string[];
  onChange: (channels: string) => void;
}) {
  const options = ["RGB", ...has.filter((one) => one !== "Y")].map((one) => ({
    value: one,
    label: one === "RGB" ? "grayscale" : one,
  }));
  return <Choice label={label} value={value} options={options} onChange={onChange} />;
}
