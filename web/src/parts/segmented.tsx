import { ToggleGroup } from "radix-ui";

interface Props<T extends string> {
  label: string;
  /** Empty if none applies. */
  value: T | "";
  options: readonly { value: T; label: string; title?: string; disabled?: boolean }[];
  onChange: (value: T) => void;
}

/** Radio group of a few visible choices. Arrow keys move between them. */
export function Segmented<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="inline-flex h-field rounded-sm border border-rule bg-sheet overflow-hidden"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          disabled={option.disabled}
          title={option.title}
          aria-label={option.title ? `${option.label}: ${option.title}` : undefined}
          className="px-2.5 text-list border-r border-rule last:border-r-0 data-[state=on]:bg-ink data-[state=on]:text-sheet hover:not-data-[state=on]:bg-card disabled:opacity-40 focus-visible:-outline-offset-2"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
