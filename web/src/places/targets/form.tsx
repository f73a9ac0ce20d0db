// Form elements of the target editor.
import type { ReactNode } from "react";

export function Row({
  label,
  title,
  children,
}: {
  label: string;
  title?: string;
  children: ReactNode;
}) {
  return (
    <div className="grid grid-cols-[104px_1fr] items-center gap-2" title={title}>
      <span>{label}</span>
      <span className="flex min-w-0">{children}</span>
    </div>
  );
}

export function Tick({
  label,
  title,
  checked,
  onChange,
}: {
  label: string;
  title?: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-1.5" title={title}>
      <input
        type="checkbox"
        className="size-4 accent-copper"
        checked={checked}
        onChange={() => onChange(!checked)}
      />
      {label}
    </label>
  );
}
