import { Choice } from "@/parts/choice";
import { type Surrounding, surroundings } from "./choices";

interface Props {
  value: Surrounding;
  onChange: (value: Surrounding) => void;
}

export function SurroundingChoice({ value, onChange }: Props) {
  return (
    <span className="w-34.5">
      <Choice
        label="Surrounding"
        value={value}
        options={surroundings}
        onChange={(next) => onChange(next as Surrounding)}
      />
    </span>
  );
}
