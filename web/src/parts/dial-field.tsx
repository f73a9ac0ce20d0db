import { Slider } from "radix-ui";
import { useEffect, useId, useState } from "react";

const COARSE = 10;

export interface DialFieldProps {
  label: string;
  hint: string;
  value: number;
  low: number;
  high: number;
  unit?: string | undefined;
  /** Value that a double-click restores. */
  initial: number;
  /** While dragging. */
  onMove: (value: number) => void;
  /** On release. */
  onCommit: (value: number) => void;
}

/** About 200 steps over the range, on a round number. */
export function stepOf(low: number, high: number): number {
  const rough = (high - low) / 200;
  const power = 10 ** Math.floor(Math.log10(rough));
  const head = rough / power;
  return power * (head < 1.5 ? 1 : head < 3.5 ? 2 : head < 7.5 ? 5 : 10);
}

/** Format a number with the decimals that its step needs. */
export function shownNumber(value: number, step: number): string {
  return value.toFixed(Math.max(0, Math.min(5, -Math.floor(Math.log10(step) + 1e-9))));
}

/** Slider with number field: drag, arrow keys (Shift for coarse), type, double-click to reset. */
export function DialField(props: DialFieldProps) {
  const { label, hint, value, low, high, unit, initial, onMove, onCommit } = props;
  const id = useId();
  const step = stepOf(low, high);
  const [typed, setTyped] = useState<string | null>(null);
  useEffect(() => setTyped(null), []);

  function accept() {
    if (typed === null) return;
    const next = Number.parseFloat(typed.replace(",", "."));
    setTyped(null);
    if (Number.isFinite(next)) onCommit(Math.min(high, Math.max(low, next)));
  }

  return (
    <div className="grid h-control grid-cols-[84px_1fr_72px] items-center gap-2">
      <label htmlFor={id} title={hint} className="truncate">
        {label}
      </label>
      <Slider.Root
        className="relative flex items-center h-5 touch-none select-none"
        min={low}
        max={high}
        step={step}
        value={[value]}
        onValueChange={([next]) => next !== undefined && onMove(next)}
        onValueCommit={([next]) => next !== undefined && onCommit(next)}
        onDoubleClick={() => onCommit(initial)}
        onKeyDown={(event) => {
          const turn = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
          if (!turn || !event.shiftKey) return;
          event.preventDefault();
          onCommit(Math.min(high, Math.max(low, value + turn * step * COARSE)));
        }}
      >
        <Slider.Track className="relative grow h-0.75 rounded-full bg-rule">
          <Slider.Range className="absolute h-full rounded-full bg-copper" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          title={`${hint}. Double-click: reset to ${shownNumber(initial, step)}`}
          className="block size-3.75 rounded-full border-2 border-copper bg-card"
        />
      </Slider.Root>
      <div className="flex items-center h-field rounded-sm border border-rule bg-card px-1.5 figures">
        <input
          id={id}
          inputMode="decimal"
          className="w-full min-w-0 text-right bg-transparent outline-none"
          value={typed ?? shownNumber(value, step)}
          onChange={(event) => setTyped(event.target.value)}
          onFocus={(event) => event.target.select()}
          onBlur={accept}
          onKeyDown={(event) => event.key === "Enter" && accept()}
        />
        {unit && <span className="pl-1 text-second">{unit}</span>}
      </div>
    </div>
  );
}
