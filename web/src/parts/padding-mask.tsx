// The map that says what is covered, and beyond which colors and data grow.

import { Choice } from "./choice";
import { words } from "./figures";

const MASKS = ["opacity", "detail_mask", "mask_1", "mask_2", "mask_3", "mask_4"] as const;

interface Props<T extends string> {
  value: T;
  onChange: (mask: T) => void;
}

export function PaddingMask<T extends string>({ value, onChange }: Props<T>) {
  const masks: readonly string[] = MASKS.some((one) => one === value) ? MASKS : [...MASKS, value];
  return (
    <Choice
      label="Mask of the padding"
      value={value}
      options={masks.map((mask) => ({ value: mask, label: words(mask) }))}
      onChange={(mask) => onChange(mask as T)}
    />
  );
}
