import { Check, ChevronDown } from "lucide-react";
import { Select } from "radix-ui";

interface Props {
  label: string;
  value: string;
  options: readonly { value: string; label: string; disabled?: boolean }[];
  onChange: (value: string) => void;
}

/** Select field. */
export function Choice({ label, value, options, onChange }: Props) {
  return (
    <Select.Root value={value} onValueChange={onChange}>
      <Select.Trigger
        aria-label={label}
        className="flex h-field w-full items-center justify-between gap-1 rounded-sm border border-rule bg-card px-2"
      >
        <span className="truncate">
          <Select.Value />
        </span>
        <Select.Icon className="shrink-0">
          <ChevronDown className="size-3.5 text-second" />
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={3}
          className="z-30 max-h-(--radix-select-content-available-height) min-w-(--radix-select-trigger-width) rounded-sm border border-rule bg-card py-1"
          collisionPadding={8}
        >
          <Select.Viewport>
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                disabled={option.disabled}
                className="flex cursor-pointer items-center gap-1.5 py-1 pr-4 pl-2 outline-none data-highlighted:bg-copper-pale data-disabled:text-second data-disabled:opacity-50"
              >
                <span className="w-4">
                  <Select.ItemIndicator>
                    <Check className="size-3.5 text-copper" />
                  </Select.ItemIndicator>
                </span>
                <Select.ItemText>{option.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
