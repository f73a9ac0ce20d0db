// Native select field, light enough for hundreds of rows.
import type { ComponentProps } from "react";

interface Props extends Omit<ComponentProps<"select">, "onChange"> {
  label: string;
  options: readonly { value: string; label: string }[];
  onPick: (value: string) => void;
}

export function Pick({ label, options, onPick, className = "", ...rest }: Props) {
  return (
    <select
      aria-label={label}
      onChange={(event) => onPick(event.target.value)}
      className={`h-field rounded-sm border border-rule bg-card pr-1 pl-1.5 ${className}`}
      {...rest}
    >
      {options.map((option) => (
        <option key={option.value} value={option.value}>
          {option.label}
        </option>
      ))}
    </select>
  );
}
