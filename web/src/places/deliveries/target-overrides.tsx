// Overrides of a target in a project: size, format, padding, files.
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { DestinationRead, DestinationWrite } from "@/api/client";
import { queries } from "@/api/queries";
import { Choice } from "@/parts/choice";
import { PaddingReach } from "@/parts/padding-reach";

type Options = NonNullable<DestinationWrite["options"]>;

interface Props {
  now: DestinationRead;
  options: Options;
  onChange: (options: Options) => void;
}

const AS_THE_TARGET = "target's setting";
const SIZES = ["256", "512", "1024", "2048", "4096", "8192"];

export function TargetOverrides({ now, options, onChange }: Props) {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const put = (some: Partial<Options>) => onChange({ ...options, ...some });
  const off = options.off ?? [];
  return (
    <section aria-label="Overrides" className="-mx-1 min-h-0 overflow-auto px-1">
      <Row label="Size">
        <Choice
          label="Size"
          value={options.longer_side ? String(options.longer_side) : AS_THE_TARGET}
          options={[AS_THE_TARGET, ...SIZES].map((value) => ({
            value,
            label: value === AS_THE_TARGET ? value : `${value} texels`,
          }))}
          onChange={(value) => put({ longer_side: value === AS_THE_TARGET ? null : Number(value) })}
        />
      </Row>
      <Row label="Format">
        <Choice
          label="Format of all files"
          value={options.format ?? AS_THE_TARGET}
          options={[AS_THE_TARGET, ...(vocabulary?.formats.map((one) => one.name) ?? [])].map(
            (value) => ({ value, label: value === AS_THE_TARGET ? value : value.toUpperCase() }),
          )}
          onChange={(value) => put({ format: value === AS_THE_TARGET ? null : value })}
        />
      </Row>
      <Padding options={options} onChange={(padding) => put({ padding: padding ?? null })} />
      <CopyTo place={options.copy_to ?? null} onChange={(place) => put({ copy_to: place })} />
      <fieldset className="mt-3">
        <legend className="mb-1 text-second">Files to write</legend>
        {now.files.map((file) => (
          <label key={file.name} className="flex h-6 items-center gap-2">
            <input
              type="checkbox"
              className="accent-verdigris"
              checked={!off.includes(file.name)}
              onChange={(event) =>
                put({
                  off: event.target.checked
                    ? off.filter((one) => one !== file.name)
                    : [...off, file.name],
                })
              }
            />
            <span className="truncate figures">{file.name}</span>
          </label>
        ))}
      </fieldset>
    </section>
  );
}

interface PaddingProps {
  options: Options;
  onChange: (padding: Options["padding"]) => void;
}

function Padding({ options, onChange }: PaddingProps) {
  const padding = options.padding;
  return (
    <>
      <Row label="Padding">
        <Choice
          label="Padding"
          value={padding?.mode ?? AS_THE_TARGET}
          options={[
            { value: AS_THE_TARGET, label: AS_THE_TARGET },
            { value: "none", label: "none" },
            { value: "texels", label: "by texels" },
            { value: "border", label: "to the border" },
          ]}
          onChange={(mode) =>
            onChange(
              mode === AS_THE_TARGET
                ? null
                : { texels: 16, above: 0, mask: "opacity", ...padding, mode: mode as "none" },
            )
          }
        />
      </Row>
      {padding && padding.mode !== "none" && (
        <Row label="beyond">
          <PaddingReach padding={padding} onChange={onChange} />
        </Row>
      )}
    </>
  );
}

interface CopyToProps {
  place: string | null;
  onChange: (place: string | null) => void;
}

/** Copy destination: one of the server's URLs, and a subfolder. */
function CopyTo({ place, onChange }: CopyToProps) {
  const { data: places = [] } = useQuery(queries.copyDestinations());
  if (places.length === 0 && place === null) return null;
  return (
    <Row label="Copy to">
      <input
        aria-label="Copy to"
        title="A copy of every delivery is written there, in the same layout; empty: no copy"
        placeholder="none"
        list="copy-places"
        className="h-field min-w-0 grow rounded-sm border border-rule bg-card px-2 figures"
        value={place ?? ""}
        onChange={(event) => onChange(event.target.value || null)}
      />
      <datalist id="copy-places">
        {places.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </Row>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="mb-1.5 flex items-center">
      <span className="w-18 shrink-0 text-second">{label}</span>
      {children}
    </div>
  );
}
