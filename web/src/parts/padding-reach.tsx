// Padding settings: which mask limits it, and how far it extends.
import { useQuery } from "@tanstack/react-query";
import { queries } from "@/api/queries";
import { Choice } from "./choice";
import { words } from "./format";
import { NumberField } from "./number-field";

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
  const { data: vocabulary } = useQuery(queries.vocabulary());
  if (padding.mode === "none") return null;
  const masks = new Set([
    "opacity",
    ...(vocabulary?.kinds ?? []).flatMap((one) => (one.is_mask ? [one.kind] : [])),
    padding.mask,
  ]);
  return (
    <>
      <span className="ml-1 w-24 shrink-0">
        <Choice
          label="Padding mask"
          value={padding.mask}
          options={[...masks].map((mask) => ({ value: mask, label: words(mask) }))}
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
