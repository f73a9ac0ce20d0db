import { useState } from "react";

interface Props {
  label: string;
  title?: string;
  value: number | null;
  low: number;
  high: number;
  unit?: string;
  /** Displayed decimals. */
  places?: number;
  /** Step of the arrow keys. */
  step?: number;
  disabled?: boolean;
  onCommit: (value: number) => void;
}

const COARSE = 10;

/** A number without a slider: typed, or changed by the arrow keys (Shift for coarse). */
export function NumberField(props: Props) {
  const { label, title, value, low, high, unit, places = 1, step = 1, disabled, onCommit } = props;
  const [typed, setTyped] = useState<string | null>(null);
  const put = (next: number) => onCommit(Math.min(high, Math.max(low, next)));
  function accept() {
    if (typed === null) return;
    const next = Number.parseFloat(typed.replace(",", "."));
    setTyped(null);
    if (Number.isFinite(next) && next !== value) put(next);
  }
  return (
    <span
      title={title}
      className={`flex h-field min-w-0 grow items-center rounded-sm border border-rule px-1.5 figures ${disabled ? "bg-sheet text-second" : "bg-card"}`}
    >
      <input
        aria-label={label}
        inputMode="decimal"
        disabled={disabled}
        className="w-full min-w-0 bg-transparent text-right outline-none"
        value={typed ?? (value === null ? "" : value.toFixed(places))}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={accept}
        onKeyDown={(event) => {
          if (event.key === "Enter") accept();
          const turn = { ArrowUp: 1, ArrowDown: -1 }[event.key];
          if (!turn || value === null) return;
          event.preventDefault();
          setTyped(null);
          put(value + turn * step * (event.shiftKey ? COARSE : 1));
        }}
      />
      {unit && <span className="pl-1 text-second">{unit}</span>}
    </span>
  );
}
