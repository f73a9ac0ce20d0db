// Crop, perspective and rotation of the picture.
import { FlipHorizontal2, RotateCcw, RotateCw } from "lucide-react";
import { useState } from "react";
import { Button } from "@/parts/button";
import { DialField } from "@/parts/dial-field";
import { NumberField } from "@/parts/number-field";
import { Column } from "../column";
import {
  type Crop,
  cropOf,
  cropSide,
  framing,
  PLAIN_FRAME,
  ratioOf,
  rotatingLight,
} from "./preparing";
import { type ColumnProps, ToolButton } from "./tool-button";

const cropSides = ["left", "top", "right", "bottom"] as const;
export function FrameColumn({ prepare, tool, onTool, onMove, onCommit }: ColumnProps) {
  const { frame } = prepare;
  const isPlain = JSON.stringify({ ...frame, aspect: null }) === JSON.stringify(PLAIN_FRAME);
  /** Rotation by 90° also rotates the crop. */
  function turn(by: 1 | 3) {
    const [left, top, right, bottom] = cropOf(frame);
    const crop: Crop =
      by === 1 ? [1 - bottom, left, 1 - top, right] : [top, 1 - right, bottom, 1 - left];
    // In a mirrored picture, the rotation is reversed.
    const turns = (frame.quarter_turns + (frame.mirror ? 4 - by : by)) % 4;
    const back = by === 1 ? 90 : -90;
    onCommit((draft) =>
      rotatingLight((from) => from - back)(framing({ quarter_turns: turns, crop })(draft)),
    );
  }
  function mirror() {
    const [left, top, right, bottom] = cropOf(frame);
    const framed = framing({
      mirror: !frame.mirror,
      angle: -frame.angle || 0,
      crop: [1 - right, top, 1 - left, bottom],
    });
    onCommit((draft) => rotatingLight((from) => 180 - from)(framed(draft)));
  }
  return (
    <Column title="Frame">
      <div className="flex h-control items-center gap-1.5">
        <ToolButton of="corners" tool={tool} onTool={onTool}>
          Corners
        </ToolButton>
        <ToolButton of="crop" tool={tool} onTool={onTool}>
          Crop
        </ToolButton>
        <span className="ml-auto flex gap-1">
          <Button
            aria-label="Rotate left"
            title="Rotate left by 90°"
            look="sign"
            onClick={() => turn(3)}
          >
            <RotateCcw className="size-3.5" aria-hidden="true" />
          </Button>
          <Button
            aria-label="Rotate right"
            title="Rotate right by 90°"
            look="sign"
            onClick={() => turn(1)}
          >
            <RotateCw className="size-3.5" aria-hidden="true" />
          </Button>
          <Button
            aria-label="Flip horizontally"
            title="Mirrors left and right"
            aria-pressed={frame.mirror}
            look="sign"
            onClick={mirror}
          >
            <FlipHorizontal2 className="size-3.5" aria-hidden="true" />
          </Button>
        </span>
      </div>
      <DialField
        label="Angle"
        hint="Degrees clockwise; keeps the largest frame without empty corners"
        value={frame.angle}
        low={-45}
        high={45}
        unit="°"
        initial={0}
        onMove={(angle) => onMove(framing({ angle }))}
        onCommit={(angle) => onCommit(framing({ angle }))}
      />
      <div className="flex h-control items-center gap-1">
        <span className="w-10 shrink-0" title="% of the straightened picture">
          Crop
        </span>
        {cropSides.map((side, n) => (
          <NumberField
            key={side}
            label={`Crop ${side}`}
            title={`${side}, in % of the straightened picture`}
            value={(frame.crop[n] ?? 0) * 100}
            low={0}
            high={100}
            step={0.5}
            onCommit={(value) =>
              onCommit(framing({ crop: cropSide(cropOf(frame), n, value / 100) }))
            }
          />
        ))}
      </div>
      <div className="flex h-control items-center gap-2">
        {frame.corners && (
          <Ratio
            value={frame.aspect ?? null}
            onCommit={(aspect) => onCommit(framing({ aspect }))}
          />
        )}
        <Button
          look="bare"
          className="-mr-2 ml-auto h-field px-2"
          disabled={isPlain}
          onClick={() => onCommit(framing(PLAIN_FRAME))}
        >
          <RotateCcw className="size-3.5" /> Reset frame
        </Button>
      </div>
    </Column>
  );
}

/** Aspect ratio of the corners' frame: a ratio, a number, or empty for the apparent one. */
function Ratio({
  value,
  onCommit,
}: {
  value: number | null;
  onCommit: (value: number | null) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed !== null && ratioOf(typed) === undefined;
  function accept() {
    const ratio = typed === null ? undefined : ratioOf(typed);
    if (ratio !== undefined && ratio !== value) onCommit(ratio);
    setTyped(null);
  }
  return (
    <label className="flex min-w-0 items-center gap-1.5">
      <span title="Aspect ratio of the area inside the corners, such as 4:3 or 1.33; empty: as in the photo">
        Aspect
      </span>
      <input
        aria-label="Aspect ratio"
        aria-invalid={wrong}
        placeholder="as in the photo"
        className="h-field w-19.5 min-w-0 rounded-sm border border-rule bg-card px-1.5 text-right figures aria-invalid:border-wrong"
        value={typed ?? (value === null ? "" : String(Number(value.toFixed(4))))}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={accept}
        onKeyDown={(event) => event.key === "Enter" && accept()}
      />
    </label>
  );
}
