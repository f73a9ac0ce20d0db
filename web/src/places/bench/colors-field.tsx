// Picked colors: swatches that can be removed, a text field, and a color picker.
import { Pipette, X } from "lucide-react";
import { useState } from "react";
import { Button } from "@/parts/button";

interface Props {
  label: string;
  hint: string;
  /** #rrggbb separated by commas. */
  value: string;
  most: number;
  picking: boolean;
  onPick: (on: boolean) => void;
  onCommit: (value: string) => void;
}

export function colorsOf(value: string): string[] {
  return value.split(",").filter(Boolean);
}

/** Add a color; if only one is allowed, replace it. */
export function withColor(value: string, color: string, most: number): string {
  const others = colorsOf(value).filter((one) => one !== color);
  return [
    ...others.slice(most > 1 ? Math.max(0, others.length - most + 1) : others.length),
    color,
  ].join();
}

export function ColorsField({ label, hint, value, most, picking, onPick, onCommit }: Props) {
  const [typed, setTyped] = useState("");
  const colors = colorsOf(value);
  function accept() {
    const plain = typed.trim().toLowerCase();
    const color = plain.startsWith("#") ? plain : `#${plain}`;
    if (/^#[0-9a-f]{6}$/.test(color)) onCommit(withColor(value, color, most));
    setTyped("");
  }
  return (
    <fieldset className="min-w-0">
      <legend className="sr-only">{label}</legend>
      <div className="grid h-control grid-cols-[84px_1fr_88px] items-center gap-2">
        <span title={hint} className="truncate">
          {label}
        </span>
        <Button
          aria-pressed={picking}
          aria-label={`${label}: pick color`}
          onClick={() => onPick(!picking)}
          look="tool"
        >
          <Pipette className="size-3.5" aria-hidden="true" /> {picking ? "Picking…" : "Pick"}
        </Button>
        <input
          aria-label={`${label}: hex value`}
          placeholder="#rrggbb"
          className="h-field min-w-0 rounded-sm border border-rule bg-card px-1.5 figures"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={() => typed && accept()}
          onKeyDown={(event) => event.key === "Enter" && accept()}
        />
      </div>
      <ul className="flex min-h-7.5 flex-wrap items-center gap-1.5">
        {colors.length === 0 && <li className="text-small text-second">No color picked</li>}
        {colors.map((color) => (
          <li key={color}>
            <button
              type="button"
              aria-label={`Remove ${color}`}
              title={`${label}: remove ${color}`}
              className="group grid size-6 place-items-center rounded-sm border border-second/60"
              style={{ background: color }}
              onClick={() => onCommit(colors.filter((one) => one !== color).join())}
            >
              <X className="size-3.5 rounded-full bg-card/90 text-ink opacity-0 group-hover:opacity-100 group-focus-visible:opacity-100" />
            </button>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
