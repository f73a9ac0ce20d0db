// Conventions that apply to all files of a target, and its documents.
import { ChevronDown, X } from "lucide-react";
import { Popover } from "radix-ui";
import type { Schemas, TargetPreset } from "@/api/client";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { NumberField } from "@/parts/number-field";
import { PaddingReach } from "@/parts/padding-reach";
import { Segmented } from "@/parts/segmented";
import { Row } from "./form";
import { sizeOf, sizeWord } from "./packing";
import type { Change } from "./use-target";

const sides = ["512", "1024", "2048", "4096"] as const;
const sizes = [
  { value: "source", label: "size of the set" },
  { value: "half", label: "half the set's size" },
  { value: "power_of_two", label: "next power of two" },
  ...sides.map((one) => ({ value: `fixed ${one}`, label: `${one} texels` })),
  ...sides.map((one) => ({ value: `at_most ${one}`, label: `at most ${one}` })),
];
const cases = [
  { value: "as_written", label: "unchanged" },
  { value: "lower", label: "lowercase" },
  { value: "upper", label: "UPPERCASE" },
  { value: "title", label: "Title Case" },
] as const;
const separators = [
  { value: "as_written", label: "unchanged" },
  { value: "underscore", label: "under_score" },
  { value: "hyphen", label: "hy-phen" },
  { value: "dot", label: "d.ot" },
  { value: "none", label: "none" },
] as const;
type Document = Schemas["DocumentSpec"];
const documents: { value: string; label: string; spec: Omit<Document, "name"> }[] = [
  { value: "glb", label: "glTF, one .glb", spec: { format: "glb", model: "open_pbr" } },
  { value: "gltf", label: "glTF, separate files", spec: { format: "gltf", model: "open_pbr" } },
  {
    value: "open_pbr",
    label: "MaterialX, OpenPBR",
    spec: { format: "materialx", model: "open_pbr" },
  },
  {
    value: "standard_surface",
    label: "MaterialX, standard surface",
    spec: { format: "materialx", model: "standard_surface" },
  },
  { value: "usda", label: "USD stage", spec: { format: "usda", model: "open_pbr" } },
  { value: "usdz", label: "USD package", spec: { format: "usdz", model: "open_pbr" } },
];

/** Index of refraction for a reflectance at normal incidence. */
const indexOf = (f0: number) => (1 + Math.sqrt(f0)) / (1 - Math.sqrt(f0));

const named = (one: Document) =>
  documents.find(
    ({ spec }) =>
      spec.format === one.format && (spec.format !== "materialx" || spec.model === one.model),
  );

interface Props {
  preset: TargetPreset;
  onChange: (change: Change) => void;
}

export function Conventions({ preset, onChange }: Props) {
  const put = (part: Partial<TargetPreset>) => onChange((one) => ({ ...one, ...part }));
  return (
    <>
      <span className="text-second">Normals</span>
      <Segmented
        label="Normals"
        value={preset.normal_y}
        options={[
          { value: "up", label: "Y+" },
          { value: "down", label: "Y−" },
        ]}
        onChange={(normal_y) => put({ normal_y })}
      />
      <span className="w-31.5">
        <Choice
          label="Size of the files"
          value={sizeWord(preset.size)}
          options={sizes}
          onChange={(word) => put({ size: sizeOf(word) })}
        />
      </span>
      <Popover.Root>
        <Popover.Trigger className="flex h-field items-center gap-1 rounded-sm border border-rule bg-card px-2 hover:bg-sheet">
          Conventions <ChevronDown className="size-3.5 text-second" aria-hidden="true" />
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            sideOffset={4}
            collisionPadding={8}
            className="z-30 grid w-82.5 gap-2 rounded-sm border border-rule bg-card p-3"
          >
            <More preset={preset} put={put} />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </>
  );
}

function More({
  preset,
  put,
}: {
  preset: TargetPreset;
  put: (part: Partial<TargetPreset>) => void;
}) {
  const { padding, names } = preset;
  return (
    <>
      <Row label="Workflow">
        <Choice
          label="Workflow"
          value={preset.workflow}
          options={[
            { value: "metal_rough", label: "metallic/roughness" },
            { value: "spec_gloss", label: "specular/glossiness" },
          ]}
          onChange={(workflow) => put({ workflow: workflow as TargetPreset["workflow"] })}
        />
      </Row>
      <Row label="Dielectric F0" title="For workflow conversions; reflectance at normal incidence">
        <NumberField
          label="Dielectric F0"
          value={preset.dielectric_f0}
          low={0}
          high={0.16}
          places={3}
          step={0.005}
          onCommit={(dielectric_f0) => put({ dielectric_f0 })}
        />
        <span className="pl-2 whitespace-nowrap text-second figures" title="Index of refraction">
          n {indexOf(preset.dielectric_f0).toFixed(2)}
        </span>
      </Row>
      <Row label="Downsampling" title="Nearest keeps whole texels without mixing">
        <Choice
          label="Downsampling"
          value={preset.resampling}
          options={[
            { value: "smooth", label: "filtered, preserves shading" },
            { value: "nearest", label: "nearest (pixel art)" },
          ]}
          onChange={(word) => put({ resampling: word as TargetPreset["resampling"] })}
        />
      </Row>
      <Row label="Padding" title="Extends colors beyond the mask from the nearest covered texel">
        <Choice
          label="Padding"
          value={padding.mode}
          options={[
            { value: "none", label: "none" },
            { value: "texels", label: "by texels" },
            { value: "border", label: "to the border" },
          ]}
          onChange={(mode) => put({ padding: { ...padding, mode: mode as typeof padding.mode } })}
        />
        <PaddingReach padding={padding} onChange={(changed) => put({ padding: changed })} />
      </Row>
      <Row label="Height" title="Meters require floating-point files">
        <Choice
          label="Height mid-level"
          value={String(preset.height_mid)}
          options={[
            { value: "0.5", label: "0.5" },
            { value: "0", label: "0" },
          ]}
          onChange={(mid) => put({ height_mid: Number(mid) })}
        />
        <Choice
          label="Unit of height"
          value={preset.height_unit}
          options={[
            { value: "share", label: "0 to 1" },
            { value: "metres", label: "meters" },
          ]}
          onChange={(unit) => put({ height_unit: unit as TargetPreset["height_unit"] })}
        />
      </Row>
      <Row label="File names">
        <Choice
          label="Case of file names"
          value={names.case}
          options={cases}
          onChange={(word) => put({ names: { ...names, case: word as typeof names.case } })}
        />
        <Choice
          label="Separator in file names"
          value={names.separator}
          options={separators}
          onChange={(word) =>
            put({ names: { ...names, separator: word as typeof names.separator } })
          }
        />
      </Row>
      <Documents given={preset.documents} onChange={(given) => put({ documents: given })} />
    </>
  );
}

function Documents({
  given,
  onChange,
}: {
  given: Document[];
  onChange: (given: Document[]) => void;
}) {
  const left = documents.filter(({ value }) => !given.some((one) => named(one)?.value === value));
  return (
    <div className="grid gap-1 border-t border-rule pt-2">
      <span className="text-second">Material documents</span>
      {given.map((one, n) => (
        <span key={`${one.format}-${one.model}`} className="flex items-center gap-2">
          <span className="grow">{named(one)?.label}</span>
          <span className="figures text-second">{one.name}</span>
          <Button
            aria-label={`Remove ${named(one)?.label}`}
            look="away"
            onClick={() => onChange(given.filter((_, i) => i !== n))}
          >
            <X className="size-3.5" aria-hidden="true" />
          </Button>
        </span>
      ))}
      <Choice
        label="Add document"
        value="none"
        options={[{ value: "none", label: "add document…" }, ...left]}
        onChange={(value) => {
          const spec = documents.find((one) => one.value === value)?.spec;
          if (spec) onChange([...given, { ...spec, name: "{set}" }]);
        }}
      />
    </div>
  );
}
