// Control of a parameter by its declaration: number, switch, choice, colors, names.
import type { ReactNode } from "react";
import type { ParameterRead } from "@/api/client";
import { Choice } from "@/parts/choice";
import { DialField } from "@/parts/dial-field";
import { Segmented } from "@/parts/segmented";
import { WordsField } from "@/parts/words-field";
import { ColorsField } from "./colors-field";

export type Value = number | boolean | string;

interface Props {
  parameter: ParameterRead;
  value: Value;
  onMove: (value: number) => void;
  onCommit: (value: Value) => void;
  /** A color is being picked for this control from the flat window. */
  picking: boolean;
  onPick: (on: boolean) => void;
}

export function Control({ parameter, value, onMove, onCommit, picking, onPick }: Props) {
  const { label, meaning, low, high, unit, choices, form } = parameter;
  switch (form) {
    case "number": {
      // Fractions of the tile are displayed in percent.
      const factor = unit === "tile" ? 100 : 1;
      return (
        <DialField
          label={label}
          value={Number(value) * factor}
          low={low * factor}
          high={high * factor}
          onMove={(shown) => onMove(shown / factor)}
          onCommit={(shown) => onCommit(shown / factor)}
          hint={unit === "tile" ? `${meaning}, in % of the picture's width` : meaning}
          unit={{ tile: "%", m: "m", deg: "°", stops: "EV" }[unit]}
          initial={Number(parameter.default) * factor}
        />
      );
    }
    case "colors":
      return (
        <ColorsField
          label={label}
          hint={meaning}
          value={String(value)}
          most={parameter.most}
          picking={picking}
          onPick={onPick}
          onCommit={onCommit}
        />
      );
    case "names":
      return (
        <Labelled label={label} hint={meaning}>
          <WordsField label={label} value={String(value)} onCommit={onCommit} />
        </Labelled>
      );
    case "switch":
      return (
        <Labelled label={label} hint={meaning}>
          <Segmented
            label={label}
            value={String(value)}
            options={yesNo}
            onChange={(next) => onCommit(next === "true")}
          />
        </Labelled>
      );
    case "choice":
      return (
        <Labelled label={label} hint={meaning}>
          <Choice
            label={label}
            value={String(value)}
            options={choices.map((choice) => ({ value: choice, label: choice }))}
            onChange={onCommit}
          />
        </Labelled>
      );
    default:
      // Compile-time check that every form of a parameter has a control.
      form satisfies never;
      return null;
  }
}

const yesNo = [
  { value: "false", label: "Off" },
  { value: "true", label: "On" },
] as const;

export function Labelled({
  label,
  hint,
  children,
}: {
  label: string;
  hint: string;
  children: ReactNode;
}) {
  return (
    <div className="grid h-control grid-cols-[84px_1fr] items-center gap-2">
      <span title={hint} className="truncate">
        {label}
      </span>
      <span className="min-w-0">{children}</span>
    </div>
  );
}
