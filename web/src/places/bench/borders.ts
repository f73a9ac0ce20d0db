// Which borders meet, in the words of the interface.
import type { SurfaceSpec } from "@/api/client";

export type Borders = "end" | "meet" | "across" | "down";

export function bordersOf(wrap: SurfaceSpec["wrap"]): Borders {
  return wrap === true ? "meet" : wrap === false ? "end" : wrap;
}

export function wrapOf(borders: Borders): SurfaceSpec["wrap"] {
  return borders === "meet" ? true : borders === "end" ? false : borders;
}

export function bordersInWords(wrap: SurfaceSpec["wrap"]): string {
  const words = { end: "borders end", meet: "tiles both ways" } as const;
  const borders = bordersOf(wrap);
  return borders === "across" || borders === "down" ? `tiles ${borders}` : words[borders];
}
