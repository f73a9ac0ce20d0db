// The source picture with a tool; rectified and rotated for the crop.
import { useEffect, useRef, useState } from "react";
import type { CapturesSpec, GuideRead } from "@/api/client";
import { Button } from "@/parts/button";
import { BallTool } from "../captures/ball-tool";
import { GrayCardTool } from "../captures/gray-card-tool";
import type { Draft, DraftState } from "../use-draft";
import { CornersTool, CropTool, RulerTool, type ToolProps } from "./frame-tools";
import type { Lay } from "./handle";
import { MarksTool } from "./marks-tool";
import type { Tool } from "./preparing";
import { useSourcePicture } from "./use-source-picture";

const MARGIN = { top: 48, side: 22, bottom: 22 };
const hints: Record<Tool, string> = {
  corners: "Drag the corners onto the corners of a rectangular object",
  crop: "Drag the corners of the crop, or drag it as a whole",
  marks: "Draw around a blemish, or click to mark a round spot",
  ball: "Drag the circle onto the ball, and its edge onto the ball's outline",
  grey: "Drag the circle onto a gray card or plain paper",
  ruler: "Put both ends of the ruler on a known length",
};

/** A source picture; measured sets show no sphere. */
function photoOf(captures: CapturesSpec, guide: GuideRead): GuideRead {
  const first = captures.captures.find((one) => one.used);
  if (!first) return guide;
  const definition = {
    how: "imported",
    source: first.source,
    channels: "RGB",
    encoding: first.encoding ?? "srgb",
    normal_y: "up",
    curve: "none",
  } as const;
  return { ...guide, kind: "base_color", definition };
}

interface Props {
  setId: number;
  draft: Draft;
  state: DraftState;
  guide: GuideRead;
  tool: Tool;
  radius: number;
  onMoving: (moving: boolean) => void;
  onEnd: () => void;
}

export function SourceWindow(props: Props) {
  const { setId, draft, state, guide, tool, radius, onMoving, onEnd } = props;
  const frame = useRef<HTMLElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [view, setView] = useState({ width: 600, height: 400 });
  const own =
    (tool === "ball" || tool === "grey") && draft.captures ? photoOf(draft.captures, guide) : guide;
  const shown = useSourcePicture(setId, draft, own, tool === "crop");
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setView({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const texels = { width: shown?.picture.width ?? 1, height: shown?.picture.height ?? 1 };
  const free = {
    width: view.width - 2 * MARGIN.side,
    height: view.height - MARGIN.top - MARGIN.bottom,
  };
  const scale = Math.max(0.01, Math.min(free.width / texels.width, free.height / texels.height));
  const lay: Lay = {
    width: texels.width * scale,
    height: texels.height * scale,
    left: (view.width - texels.width * scale) / 2,
    top: MARGIN.top + (free.height - texels.height * scale) / 2,
  };
  const { width, height, left, top } = lay;
  useEffect(() => {
    const context = canvas.current?.getContext("2d", { willReadFrequently: true });
    if (!canvas.current || !context || !shown) return;
    canvas.current.width = Math.round(view.width * devicePixelRatio);
    canvas.current.height = Math.round(view.height * devicePixelRatio);
    context.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
    context.imageSmoothingQuality = "medium";
    context.drawImage(shown.picture, left, top, width, height);
  }, [shown, view, width, height, left, top]);
  const put: ToolProps | null = shown
    ? {
        prepare: draft.prepare,
        lay,
        shown,
        onMove: (change) => {
          onMoving(true);
          state.move(change);
        },
        onCommit: (change) => {
          onMoving(false);
          state.commit(change ?? ((draft) => draft));
        },
      }
    : null;
  return (
    <section
      ref={frame}
      aria-label="Source picture"
      data-testid="source"
      data-key={shown?.key}
      className="relative size-full overflow-hidden rounded-sm bg-ground"
    >
      <canvas ref={canvas} className="absolute inset-0 size-full" />
      {put && tool === "corners" && <CornersTool {...put} />}
      {put && tool === "crop" && <CropTool {...put} />}
      {put && tool === "marks" && <MarksTool {...put} radius={radius} />}
      {put && tool === "ball" && <BallTool {...put} setId={setId} draft={draft} state={state} />}
      {put && tool === "grey" && (
        <GrayCardTool {...put} setId={setId} draft={draft} state={state} />
      )}
      {put && tool === "ruler" && <RulerTool {...put} />}
      <p className="absolute top-2.5 left-2.5 rounded-sm bg-copper px-2.5 py-1 text-white">
        {hints[tool]}
      </p>
      <Button className="absolute top-2.5 right-2.5 h-7.25" title="Esc" onClick={onEnd}>
        Done
      </Button>
      {!shown && (
        <output className="absolute bottom-2.5 left-2.5 rounded-sm bg-ink/85 px-2 py-0.5 text-sheet">
          loading picture…
        </output>
      )}
    </section>
  );
}
