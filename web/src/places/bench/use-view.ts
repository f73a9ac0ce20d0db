// Position of a picture in a view: fitted or at a fixed scale, repeated, panned.
import { type RefObject, useEffect, useState } from "react";
import type { Zoom } from "./flat-tools";

/** Pixels at the top that controls cover; a fitted picture is placed below them. */
const TOOLS = 46;

/** In page pixels: origin of the first repetition, and size of a texel. */
export interface View {
  left: number;
  top: number;
  scale: number;
  /** Size of the view. */
  width: number;
  height: number;
}

interface Moved {
  view: View;
  zoom: Zoom;
  setZoom: (change: (zoom: Zoom) => Zoom) => void;
  moveBy: (x: number, y: number) => void;
}

/** Position of a picture, repeated so often in each direction; fitted, it leaves `foot` pixels. */
export function laid(
  window: { width: number; height: number },
  picture: { width: number; height: number },
  repeat: number,
  zoom: Zoom,
  pan: { x: number; y: number },
  density: number,
  foot = 0,
): View {
  const whole = zoom === "fit";
  const below = whole ? TOOLS : 0;
  const free = Math.max(window.height - below - (whole ? foot : 0), 1);
  const across = picture.width * repeat;
  const down = picture.height * repeat;
  // 1:1 means one texel per physical pixel, regardless of the device pixel ratio.
  const scale = whole ? Math.min(window.width / across, free / down) : Number(zoom) / density;
  return {
    ...window,
    left: (window.width - across * scale) / 2 + (whole ? 0 : pan.x),
    top:
      below +
      (whole ? (free - down * scale) / 2 : (window.height - down * scale) / 2) +
      (whole ? 0 : pan.y),
    scale,
  };
}

export function useView(
  frame: RefObject<HTMLElement | null>,
  picture: { width: number; height: number },
  repeat: number,
  foot = 0,
): Moved {
  const [zoom, setZoom] = useState<Zoom>("fit");
  const [pan, setPan] = useState({ x: 0, y: 0 });
  const [size, setSize] = useState({ width: 600, height: 400 });
  useEffect(() => {
    const element = frame.current?.parentElement;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [frame]);
  return {
    view: laid(size, picture, repeat, zoom, pan, devicePixelRatio, foot),
    zoom,
    setZoom: (change) => {
      setZoom(change);
      setPan({ x: 0, y: 0 });
    },
    moveBy: (x, y) => {
      if (zoom !== "fit") setPan((now) => ({ x: now.x + x, y: now.y + y }));
    },
  };
}
