// Seam removal methods side by side, with the quality of each; one is selected.
import { Ruler } from "lucide-react";
import { RadioGroup } from "radix-ui";
import type { Preparation } from "@/api/client";
import { NumberField } from "@/parts/number-field";
import { Column } from "../column";
import type { Change } from "../use-draft";
import { preparing } from "./preparing";
import type { SeamsState } from "./use-seams";

const ways = [
  {
    method: "gradient",
    label: "Spread",
    hint: "Spreads the difference between opposite borders over the picture (gradient domain). Nothing is cut off.",
  },
  {
    method: "blend",
    label: "Blend",
    hint: "Overlaps opposite borders and blends them while keeping contrast. For random textures.",
  },
  {
    method: "cut",
    label: "Cut",
    hint: "Overlaps opposite borders and joins them along the path of least difference. For structured textures.",
  },
] as const;

type Method = (typeof ways)[number]["method"];
type Seams = NonNullable<Preparation["seams"]>;

interface Props {
  prepare: Preparation;
  seams: SeamsState;
  onCommit: (change: Change) => void;
  /** A method was selected: show the repeated tile. */
  onChosen: () => void;
}

export function SeamsColumn({ prepare, seams: state, onCommit, onChosen }: Props) {
  const { ways: found, measuring, error } = state;
  const chosen = prepare.seams?.method ?? "none";
  const before = found && Object.values(found.ways)[0]?.before;
  function choose(method: string) {
    if (method === "none") return onCommit(preparing({ seams: null }));
    const way = found?.ways[method as Method];
    if (!way) return;
    const seams: Seams = { ...way.seams, by_measure: method === found?.chosen };
    onCommit(preparing({ seams }));
    onChosen();
  }
  return (
    <Column title="Seams (all maps)">
      <RadioGroup.Root
        aria-label="Make tileable"
        value={chosen}
        onValueChange={choose}
        className="text-list"
      >
        <div className="grid grid-cols-[minmax(0,1fr)_46px_46px_54px_48px] whitespace-nowrap text-right text-note leading-3.75 text-second">
          <span className="text-left">{measuring ? "measuring…" : "method"}</span>
          <abbr
            className="no-underline"
            title="Mean difference across the border divided by that between neighboring texels inside, for the worse axis. 1 is invisible; up to 1.15 is good."
          >
            seam
          </abbr>
          <abbr
            className="no-underline"
            title="Share of fine contrast lost in the overlap, or of detail smeared without one. Up to 10 % is good."
          >
            loss
          </abbr>
          <abbr
            className="no-underline"
            title="Share of the area along the joins that resembles no part of the picture: broken patterns, cut objects, ghosting. Up to 10 % is good."
          >
            breaks
          </abbr>
          <abbr className="no-underline" title="Share of the picture that is kept">
            kept
          </abbr>
        </div>
        <Row
          method="none"
          label="Off"
          hint="Leaves the borders unchanged"
          measured={found?.chosen === null && !found.refused}
          seam={before}
        />
        {ways.map(({ method, label, hint }) => {
          const way = found?.ways[method];
          const [across = 0, down = 0] = way?.seams.overlap ?? [];
          return (
            <Row
              key={method}
              method={method}
              label={label}
              hint={hint}
              measured={found?.chosen === method}
              disabled={!way}
              seam={way?.after}
              lost={way?.contrast_loss}
              broken={way?.broken}
              breaks={way?.breaks}
              stays={way && (1 - across) * (1 - down)}
            />
          );
        })}
      </RadioGroup.Root>
      {found?.refused && (
        <p className="truncate text-small leading-4 text-ochre" title={found.refused}>
          △ no method suggested: each breaks the pattern
        </p>
      )}
      {error && <p className="text-small text-wrong">{error}</p>}
      <Overlap seams={prepare.seams} onCommit={onCommit} />
    </Column>
  );
}

interface RowProps {
  method: string;
  label: string;
  hint: string;
  measured?: boolean;
  disabled?: boolean;
  seam?: number | undefined;
  lost?: number | undefined;
  broken?: number | undefined;
  /** Loss as text. */
  breaks?: string | null | undefined;
  stays?: number | undefined;
}

/** Quality is shown by a symbol and by color. */
function Row({
  method,
  label,
  hint,
  measured,
  disabled,
  seam,
  lost,
  broken,
  breaks,
  stays,
}: RowProps) {
  const visible = seam !== undefined && seam > 1.15;
  const dull = lost !== undefined && lost > 0.1;
  const tone = (bad: boolean) => (bad ? "text-ochre" : "text-verdigris");
  return (
    <RadioGroup.Item
      value={method}
      disabled={disabled}
      title={breaks ? `${hint} Here ${breaks}.` : hint}
      className="grid h-5.25 w-full grid-cols-[minmax(0,1fr)_46px_46px_54px_48px] whitespace-nowrap items-center rounded-sm text-right hover:bg-sheet disabled:opacity-50 data-[state=checked]:bg-copper-pale"
    >
      <span className="flex min-w-0 items-center gap-1.5 pl-1 text-left">
        <span className="grid size-3 shrink-0 place-items-center rounded-full border border-second">
          <RadioGroup.Indicator className="size-1.5 rounded-full bg-copper" />
        </span>
        {label}
        {measured && (
          <span title="The method with the best measurements" className="text-copper">
            <span className="sr-only">suggested</span>
            <Ruler className="size-3.5" aria-hidden="true" />
          </span>
        )}
      </span>
      <span className={`figures ${tone(visible)}`}>
        {seam !== undefined && `${visible ? "△" : ""}${seam.toFixed(2)}`}
      </span>
      <span className={`figures ${tone(dull)}`}>
        {lost !== undefined && `${dull ? "△" : ""}${(lost * 100).toFixed(0)} %`}
      </span>
      <span className={`figures ${tone(Boolean(breaks))}`}>
        {broken !== undefined && `${breaks ? "△" : ""}${(broken * 100).toFixed(0)} %`}
      </span>
      <span className="pr-1 text-second figures">
        {stays !== undefined && `${(stays * 100).toFixed(0)} %`}
      </span>
    </RadioGroup.Item>
  );
}

/** Overlap of the borders, for structures with a known period. */
function Overlap({
  seams,
  onCommit,
}: {
  seams: Seams | null | undefined;
  onCommit: (change: Change) => void;
}) {
  const [across = 0, down = 0] = seams?.overlap ?? [];
  const idle = !seams || seams.method === "gradient";
  const put = (overlap: [number, number]) =>
    seams && onCommit(preparing({ seams: { ...seams, overlap, by_measure: false } }));
  return (
    <div className="mt-px flex items-center gap-1.5">
      <span
        className={`grow ${idle ? "text-second" : ""}`}
        title="Overlap of opposite borders, as a share of the picture"
      >
        Overlap
      </span>
      {(["across", "down"] as const).map((way, n) => (
        <span key={way} className={`flex w-21 ${idle ? "opacity-50" : ""}`}>
          <NumberField
            label={`Overlap ${way}`}
            title={`${way}, in % of the side`}
            value={idle ? null : (n ? down : across) * 100}
            disabled={idle}
            low={1}
            high={45}
            step={0.1}
            unit="%"
            onCommit={(value) => put(n ? [across, value / 100] : [value / 100, down])}
          />
        </span>
      ))}
    </div>
  );
}
