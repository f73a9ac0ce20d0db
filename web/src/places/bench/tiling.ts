// Tiling directions as text.
import type { SurfaceSpec } from "@/api/client";

export type Tiling = "none" | "both" | "across" | "down";

export function tilingOf(wrap: SurfaceSpec["wrap"]): Tiling {
  return wrap === true ? "both" : wrap === false ? "none" : wrap;
}

export function wrapOf(tiling: Tiling): SurfaceSpec["wrap"] {
  return tiling === "both" ? true : tiling === "none" ? false : tiling;
}

const LABELS: Record<Tiling, string> = {
  none: "not tileable",
  both: "tileable",
  across: "tileable horizontally",
  down: "tileable vertically",
};

export function tilingLabel(wrap: SurfaceSpec["wrap"]): string {
  return LABELS[tilingOf(wrap)];
}
