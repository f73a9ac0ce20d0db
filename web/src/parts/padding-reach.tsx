// Padding settings: which mask limits it, and how far it extends.
import { Choice } from "./choice";
import { words } from "./format";
import { NumberField } from "./number-field";

const MASKS = ["opacity", "detail_mask", "mask_1", "mask_2", "mask_3", "mask_4"] as const;

interface Reach {
  mode: "none" | "texels" | "border";
  texels: number;
  mask: string;
}

interface Props<T extends Reach> {
  padding: T;
  onChange: (padding: T) => void;
}

export function PaddingReach<T extends Reach>({ padding, onChange }: Props<T>) {
  if (padding.mode === "none") return null;
  const masks: readonly string[] = MASKS.some((one) => one === padding.mask)
    ? MASKS
    : [...MASKS, padding.mask];
  return (
    <>
      <span className="ml-1 w-24 shrink-0">
        <Choice
          label="Padding mask"
          value={padding.mask}
          options={masks.map((mask) => ({ value: mask, label: words(mask) }))}
          onChange={(mask) => onChange({ ...padding, mask })}
        />
      </span>
      {padding.mode === "texels" && (
        <span className="ml-1 flex w-16 shrink-0">
          <NumberField
            label="Texels of padding"
            value={padding.texels}
            low={1}
            high={4096}
            places={0}
            onCommit={(texels) => onChange({ ...padding, texels: Math.round(texels) })}
          />
        </span>
      )}
    </>
  );
}
