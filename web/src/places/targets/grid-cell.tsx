// A cell of the packing grid: a click connects; on a connected cell it opens the value settings.
import { Popover } from "radix-ui";
import { memo, useMemo } from "react";
import type { MapKind } from "@/api/client";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { NumberField } from "@/parts/number-field";
import { Row } from "./form";
import { type Hold, type Letter, type Slot, shared, withoutSegment, withSegment } from "./packing";

type Step = Slot["changes"][number];

const marks: Record<Hold, string> = { none: "", plain: "●", changed: "◐", part: "◔" };
const labels: Record<Hold, string> = {
  none: "not connected",
  plain: "connected",
  changed: "connected, with changes",
  part: "shared by code ranges",
};
const missing = [
  { value: "derive", label: "derive map" },
  { value: "neutral", label: "use neutral value" },
  { value: "omit", label: "skip file" },
  { value: "stop", label: "refuse delivery" },
] as const;
const kindsOfChange = [
  { value: "invert", label: "invert" },
  { value: "range", label: "levels" },
  { value: "power", label: "gamma" },
  { value: "threshold", label: "threshold" },
  { value: "clamp", label: "clamp" },
] as const;
const fresh: Record<Step["do"], Step> = {
  invert: { do: "invert" },
  range: { do: "range", of: [0, 1], to: [0, 1] },
  power: { do: "power", exponent: 2 },
  threshold: { do: "threshold", at: 0.5 },
  clamp: { do: "clamp", low: 0, high: 1 },
};

interface CrossingProps {
  /** "Roughness to R of mask", for labels. */
  label: string;
  hold: Hold;
  locked: boolean;
  /** The value settings are expanded. */
  open: boolean;
  /** Row and column in the grid, for the arrow keys. */
  place: string;
  /** It is the first channel of a file. */
  first: boolean;
  /** Displayed value, if any. */
  constant: number | null;
}

const cell =
  "grid size-full h-5.25 place-items-center text-lead leading-none hover:bg-copper-pale focus-visible:-outline-offset-2 aria-disabled:cursor-default! aria-disabled:hover:bg-transparent";

/** One of thousands of cells: memoized, minimal content. */
export const GridCell = memo(function GridCell(props: CrossingProps) {
  const { label, hold, locked, open, place, first, constant } = props;
  const there = hold !== "none";
  return (
    <td className={`relative p-0 text-center ${first ? "border-l border-rule" : ""}`}>
      <button
        type="button"
        aria-label={`${label}: ${labels[hold]}`}
        aria-disabled={locked}
        aria-haspopup={there ? "dialog" : undefined}
        aria-expanded={there ? open : undefined}
        data-crossing={place}
        title={label}
        className={`${cell} ${hold === "part" ? "text-ochre" : "text-copper"}`}
      >
        {marks[hold]}
      </button>
      {constant !== null && (
        <span className="pointer-events-none absolute right-0.5 bottom-0 text-tiny text-second figures">
          {Number(constant.toFixed(2))}
        </span>
      )}
    </td>
  );
});

interface SlotFormProps {
  label: string;
  slot: Slot;
  letter: Letter;
  /** Other channels of the file. */
  others: Letter[];
  /** Maps that can share the channel. */
  sharers: { value: string; label: string }[];
  /** Maps that it can be multiplied by. */
  multipliers: { value: string; label: string }[];
  /** The channel can be removed from the file. */
  droppable: boolean;
  onSlot: (slot: Slot) => void;
  onSwap: (other: Letter) => void;
  onRemove: () => void;
}

interface OpenedProps extends SlotFormProps {
  /** The button in the grid. */
  button: HTMLElement;
  onClose: () => void;
}

/** Value settings next to the connected cell. */
export function OpenedCell({ button, onClose, ...form }: OpenedProps) {
  const anchor = useMemo(() => ({ current: button }), [button]);
  return (
    <Popover.Root open onOpenChange={(next) => next || onClose()}>
      <Popover.Anchor virtualRef={anchor} />
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          collisionPadding={8}
          onInteractOutside={(event) => {
            // The following click closes it.
            if (button.contains(event.target as Node)) event.preventDefault();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            button.focus();
          }}
          className="z-30 w-72.5 rounded-sm border border-rule bg-card p-3"
        >
          <SlotForm {...form} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function SlotForm({
  sharers,
  multipliers,
  label,
  slot,
  letter,
  droppable,
  others,
  onSlot,
  onSwap,
  onRemove,
}: SlotFormProps) {
  const { component } = slot;
  const put = (n: number, step: Step | null) =>
    onSlot({
      ...slot,
      changes: slot.changes.flatMap((one, i) => (i === n ? (step ? [step] : []) : [one])),
    });
  return (
    <div className="grid gap-2">
      <p className="font-medium">{label}</p>
      {slot.segments.length > 0 && <Segments slot={slot} onSlot={onSlot} />}
      {slot.changes.map((step, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a chain has no other name for its steps
        <div key={n} className="flex items-center gap-1.5">
          <span className="w-18.5 shrink-0">
            {kindsOfChange.find((one) => one.value === step.do)?.label}
          </span>
          <StepFields step={step} onCommit={(next) => put(n, next)} />
          <Button
            aria-label={`Remove ${step.do}`}
            look="away"
            className="ml-auto"
            onClick={() => put(n, null)}
          >
            ×
          </Button>
        </div>
      ))}
      {slot.map && (
        <>
          <div className="flex flex-wrap gap-1">
            {kindsOfChange.map((one) => (
              <Button
                key={one.value}
                look="small"
                onClick={() => onSlot({ ...slot, changes: [...slot.changes, fresh[one.value]] })}
              >
                + {one.label}
              </Button>
            ))}
          </div>
          <Row label="If missing">
            <Choice
              label="If missing"
              value={slot.if_missing}
              options={missing}
              onChange={(value) => onSlot({ ...slot, if_missing: value as Slot["if_missing"] })}
            />
          </Row>
        </>
      )}
      {slot.map && component !== "x" && component !== "y" && component !== "z" && (
        <Multiplied slot={slot} multipliers={multipliers} onSlot={onSlot} />
      )}
      {(slot.map || slot.segments.length > 0) && (
        <Row label="Share with" title="Puts another map into a code range of this channel">
          <Choice
            label="Share with"
            value="none"
            options={[{ value: "none", label: "add map…" }, ...sharers]}
            onChange={(kind) => kind !== "none" && onSlot(shared(slot, kind as MapKind))}
          />
        </Row>
      )}
      {slot.constant !== null && slot.constant !== undefined && (
        <Row label="Constant">
          <NumberField
            label="Constant"
            value={slot.constant}
            low={0}
            high={1}
            places={3}
            step={0.01}
            onCommit={(constant) => onSlot({ ...slot, constant })}
          />
        </Row>
      )}
      <div className="flex items-center gap-1.5">
        {others.map((other) => (
          <Button key={other} look="small" onClick={() => onSwap(other)}>
            {letter} ⇄ {other}
          </Button>
        ))}
        <Button look="small" className="ml-auto hover:text-wrong" onClick={onRemove}>
          {!droppable ? "Disconnect" : letter === "A" ? "No alpha" : `No ${letter}`}
        </Button>
      </div>
    </div>
  );
}

/** Another map that the values are multiplied by, in linear light, with a weight. */
interface MultipliedProps {
  slot: Slot;
  multipliers: SlotFormProps["multipliers"];
  onSlot: (slot: Slot) => void;
}

function Multiplied({ slot, multipliers, onSlot }: MultipliedProps) {
  const { times } = slot;
  return (
    <Row label="Multiply by" title="In linear light, before all other changes">
      <span className="flex w-full gap-1">
        <Choice
          label="Multiply by"
          value={times?.map ?? "none"}
          options={[{ value: "none", label: "none" }, ...multipliers]}
          onChange={(map) =>
            onSlot({
              ...slot,
              times: map === "none" ? null : { map: map as MapKind, weight: times?.weight ?? 1 },
            })
          }
        />
        {times && (
          <span className="flex w-16 shrink-0">
            <NumberField
              label="Weight"
              value={times.weight}
              low={0}
              high={1}
              places={2}
              step={0.05}
              onCommit={(weight) => onSlot({ ...slot, times: { ...times, weight } })}
            />
          </span>
        )}
      </span>
    </Row>
  );
}

/** Maps that share a channel, each in its own code range; the last one is the fallback. */
function Segments({ slot, onSlot }: { slot: Slot; onSlot: (slot: Slot) => void }) {
  return (
    <ul aria-label="Maps that share this channel" className="grid gap-1.5">
      {slot.segments.map((one, n) => {
        const [low = 0, high = 255] = one.codes;
        const last = n === slot.segments.length - 1;
        const name = one.map.replaceAll("_", " ");
        const code = (label: string, value: number, next: (value: number) => [number, number]) => (
          <span className="flex w-13.5">
            <NumberField
              label={`${label} code of ${name}`}
              value={value}
              low={0}
              high={255}
              places={0}
              onCommit={(to) => onSlot(withSegment(slot, n, { codes: next(Math.round(to)) }))}
            />
          </span>
        );
        return (
          <li key={`${one.map}-${one.component}`} className="flex items-center gap-1 text-list">
            <span className="min-w-0 grow truncate">{name}</span>
            {last ? (
              <span className="text-second">otherwise</span>
            ) : (
              <>
                <span className="text-second">&gt;</span>
                <span className="flex w-13.5">
                  <NumberField
                    label={`Threshold of ${name}`}
                    value={one.above ?? 0}
                    low={0}
                    high={1}
                    places={2}
                    step={0.05}
                    onCommit={(above) => onSlot(withSegment(slot, n, { above }))}
                  />
                </span>
              </>
            )}
            {code("First", low, (value) => [value, high])}
            {code("Last", high, (value) => [low, value])}
            <Button
              aria-label={`Remove ${name} from the channel`}
              look="away"
              onClick={() => onSlot(withoutSegment(slot, n))}
            >
              ×
            </Button>
          </li>
        );
      })}
    </ul>
  );
}

function StepFields({ step, onCommit }: { step: Step; onCommit: (step: Step) => void }) {
  const field = (label: string, value: number, change: (value: number) => Step, high = 1) => (
    <NumberField
      label={label}
      value={value}
      low={high > 1 ? 0.01 : 0}
      high={high}
      places={3}
      step={0.01}
      onCommit={(next) => onCommit(change(next))}
    />
  );
  if (step.do === "power")
    return field("Gamma", step.exponent, (exponent) => ({ ...step, exponent }), 16);
  if (step.do === "threshold") return field("Input minimum", step.at, (at) => ({ ...step, at }));
  if (step.do === "clamp")
    return (
      <>
        {field("Lower limit", step.low, (low) => ({ ...step, low }))}
        {field("Upper limit", step.high, (high) => ({ ...step, high }))}
      </>
    );
  if (step.do === "range") {
    const [low = 0, high = 1] = step.of;
    const [first = 0, last = 1] = step.to;
    return (
      <span className="grid min-w-0 grid-cols-2 gap-1">
        {field("Input minimum", low, (value) => ({ ...step, of: [value, high] }))}
        {field("Input maximum", high, (value) => ({ ...step, of: [low, value] }))}
        {field("Output minimum", first, (value) => ({ ...step, to: [value, last] }))}
        {field("Output maximum", last, (value) => ({ ...step, to: [first, value] }))}
      </span>
    );
  }
  return null;
}
