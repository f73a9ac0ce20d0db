// A file in Intake: detected map type, reasons, and open questions.
import { AlertTriangle, Info, LoaderCircle, X } from "lucide-react";
import { memo } from "react";
import type { ArrivalRead, AssignmentChange, MapKind } from "@/api/client";
import { Button } from "@/parts/button";
import { bytes, texels } from "@/parts/format";
import { ConfidenceMark } from "./confidence";
import { Direction } from "./direction";
import { Pick } from "./native-select";
import { Packed } from "./packed";
import { TileOfFile } from "./tile-of-file";

export interface Choices {
  maps: { value: string; label: string }[];
  grey: { value: string; label: string }[];
  /** Mean slope in degrees by name. */
  reliefs: Record<string, number>;
}

interface Props {
  row: ArrivalRead;
  choices: Choices;
  chosen: boolean;
  onChoose: (extend: boolean) => void;
  onChange: (change: AssignmentChange) => void;
  onDismiss: () => void;
}

/** Memoized: rerenders only when its row changes, because callbacks refer to that row only. */
export const FileRow = memo(
  Row,
  (a, b) => a.row === b.row && a.chosen === b.chosen && a.choices === b.choices,
);

function Row({ row, choices, chosen, onChoose, onChange, onDismiss }: Props) {
  return (
    <tr
      data-testid={`file-${row.name}`}
      data-state={row.state}
      className={`border-t border-rule align-top ${chosen ? "bg-copper-pale/50" : ""}`}
    >
      <td className="py-2 pl-4">
        <input
          type="checkbox"
          className="mt-4 size-4 accent-copper"
          aria-label={`Select ${row.name}`}
          checked={chosen}
          onClick={(event) => onChoose(event.shiftKey)}
          onChange={() => undefined}
        />
      </td>
      <td className="py-2 pl-2">
        <div className="size-12 overflow-hidden rounded-sm border border-rule bg-ground">
          {row.thumbnail && <img src={row.thumbnail} alt="" className="size-full object-cover" />}
        </div>
      </td>
      <td className="py-2 pl-3">
        <span className="block truncate font-medium" title={`${row.inside}/${row.name}`}>
          {row.name}
        </span>
        <Facts row={row} />
        <TileOfFile row={row} onChange={onChange} />
      </td>
      {row.state === "refused" ? (
        <td colSpan={3} className="py-2 pl-3 text-wrong">
          <Sign kind="wrong" text={row.error ?? "This file can't be used."} />
        </td>
      ) : (
        <>
          <td className="py-2 pl-3">
            <Pick
              label={`Map of ${row.name}`}
              value={row.map}
              options={choices.maps}
              className="w-full"
              onPick={(map) => onChange({ map: map as MapKind | "packed" | "none" })}
            />
            {row.state === "waiting" ? (
              <span className="inline-flex items-center gap-1 text-note text-second">
                <LoaderCircle className="size-3 animate-spin" aria-hidden="true" /> detecting…
              </span>
            ) : (
              <ConfidenceMark
                confidence={row.confidence}
                decidedBy={row.decided_by}
                reason={row.reason}
              />
            )}
          </td>
          <td className="py-2 pl-3">
            {row.map === "packed" && (
              <Packed
                row={row}
                kinds={choices.grey}
                onChange={(channels) => onChange({ map: "packed", channels })}
              />
            )}
            {row.normal && <Direction row={row} onChoose={(normal_y) => onChange({ normal_y })} />}
            {(row.map === "roughness" || row.map === "glossiness") && (
              <Shine map={row.map} onChange={(map) => onChange({ map })} />
            )}
          </td>
          <td className="py-2 pl-3 text-small">
            {row.problem && <Sign kind="wrong" text={row.problem} />}
            {row.hint && <Sign kind="hint" text={row.hint} />}
            {row.remarks.map((remark) => (
              <Sign key={remark} kind="look" text={remark} />
            ))}
          </td>
        </>
      )}
      <td className="py-2 pr-3 text-right">
        <Button
          aria-label={`Remove ${row.name} from Intake`}
          title="Removes the file from Intake. Sets that use it keep it."
          look="quiet"
          className="mt-3"
          onClick={onDismiss}
        >
          <X className="size-4" aria-hidden="true" />
        </Button>
      </td>
    </tr>
  );
}

function Facts({ row }: { row: ArrivalRead }) {
  const { facts } = row;
  const channels = facts.channels.join("").replace("Y", "gray ").trim();
  return (
    <span className="figures block text-second">
      {texels(facts.width, facts.height)} · {channels} {facts.float ? "float" : ""}
      {facts.bit_depth} · {facts.format} · {bytes(facts.bytes)}
      {facts.tiling?.wrap && (
        <span title="Seam: difference across the border divided by that inside; 1 is invisible">
          {" "}
          · {facts.tiling.text}
        </span>
      )}
    </span>
  );
}

/** A gloss or roughness map can be inverted: shown as text, changed with one click. */
function Shine({
  map,
  onChange,
}: {
  map: "roughness" | "glossiness";
  onChange: (map: "roughness" | "glossiness") => void;
}) {
  const rough = map === "roughness";
  return (
    <span className="text-small text-second">
      {rough ? "Roughness (white = rough)" : "Glossiness (white = glossy)"}{" "}
      <Button
        look="link"
        className="text-copper"
        onClick={() => onChange(rough ? "glossiness" : "roughness")}
      >
        Treat as {rough ? "glossiness" : "roughness"}
      </Button>
    </span>
  );
}

const signs = {
  wrong: { look: "text-wrong", Icon: AlertTriangle, word: "undecided" },
  look: { look: "text-ochre", Icon: Info, word: "remark" },
  hint: { look: "text-second", Icon: Info, word: "hint" },
} as const;

function Sign({ kind, text }: { kind: keyof typeof signs; text: string }) {
  const { look, Icon, word } = signs[kind];
  return (
    <p className={`flex gap-1.5 leading-snug ${look}`}>
      <Icon className="mt-0.5 size-3.5 shrink-0" aria-label={word} />
      {text}
    </p>
  );
}
