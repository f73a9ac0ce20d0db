// UV islands of the set's material over the flat map: outlines or texel density.
import { useQuery } from "@tanstack/react-query";
import { type RefObject, useEffect, useRef, useState } from "react";
import type { UvRead } from "@/api/client";
import { queries } from "@/api/queries";
import type { MeshData } from "@/lit/drawing/messages";
import { Segmented } from "@/parts/segmented";
import type { Sheet } from "@/parts/sheet";
import type { View } from "../use-view";
import { groupsOf } from "./place-at";

export const islandViews = [
  { value: "off", label: "Map" },
  {
    value: "outline",
    label: "Islands",
    title: "UV island outlines, with triangles for small meshes",
  },
  {
    value: "density",
    label: "Density",
    title: "gray: median density; copper: lower; green: higher",
  },
] as const;

export type IslandView = (typeof islandViews)[number]["value"];

/** Content above the map. */
export interface IslandsOfSet {
  modelId: number;
  material: string | null;
  uvSet: number;
  /** Arrangement of the set's tiles; null without tiles. */
  sheet: Sheet | null;
  /** UVs relative to the whole sheet. */
  mesh: MeshData;
  /** The pointer is at this point of the map, rows downward; null: outside. */
  onPoint: (point: { u: number; v: number } | null) => void;
}

/** Above this number of triangles, the overlay isn't legible. */
const MOST_DRAWN = 20_000;

interface Props {
  islands: IslandsOfSet;
  shows: IslandView;
  view: View;
  /** Map size in texels. */
  width: number;
  height: number;
}

export function IslandLayer({ islands, shows, view, width, height }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const density = useDensity(islands, shows);
  const { data: uv } = useQuery({
    ...queries.uv(islands.modelId, islands.material, islands.uvSet),
    enabled: shows === "density",
  });
  useLayer(canvas, { islands, shows, view, width, height }, density, uv?.islands);
  return (
    <canvas
      ref={canvas}
      data-testid="islands"
      data-shows={shows === "density" && !density ? "" : shows}
      className="pointer-events-none absolute inset-0 size-full"
    />
  );
}

export function IslandTools({
  value,
  onChange,
}: {
  value: IslandView;
  onChange: (view: IslandView) => void;
}) {
  return (
    <div className="absolute right-2.5 bottom-2.5">
      <Segmented label="Overlay" value={value} options={islandViews} onChange={onChange} />
    </div>
  );
}

function useDensity({ modelId, material, uvSet, sheet }: IslandsOfSet, shows: IslandView) {
  const tiles = sheet?.numbers.join() ?? "";
  const [picture, setPicture] = useState<HTMLImageElement | null>(null);
  useEffect(() => {
    setPicture(null);
    if (shows !== "density") return;
    const query = new URLSearchParams({ shows, uv_set: String(uvSet), side: "1024" });
    if (material !== null) query.set("material", material);
    for (const tile of tiles.split(",").filter(Boolean)) query.append("tile", tile);
    const image = new Image();
    let gone = false;
    image.onload = () => !gone && setPicture(image);
    image.src = `/api/v1/models/${modelId}/uv.png?${query}`;
    return () => {
      gone = true;
    };
  }, [modelId, material, uvSet, tiles, shows]);
  return picture;
}

type Figures = UvRead["islands"] | undefined;

/** Islands that are too small for a label have none. */
const LEAST = { across: 58, down: 18 };

/** Texel density of each island, per meter at 1024. */
function label(
  context: CanvasRenderingContext2D,
  figures: Figures,
  sheet: Sheet | null,
  [wide, high]: [number, number],
) {
  const { left: first = 0, top: upper = 0, columns = 1, rows = 1 } = sheet ?? {};
  const [across, down] = [wide / columns, high / rows];
  context.font = '500 12px "IBM Plex Mono", monospace';
  context.textAlign = "center";
  context.textBaseline = "middle";
  for (const { bounds, density } of figures ?? []) {
    const [left = 0, top = 0, right = 0, bottom = 0] = bounds;
    if ((right - left) * across < LEAST.across || (bottom - top) * down < LEAST.down) continue;
    const x = ((left + right) / 2 - first) * across;
    const y = ((top + bottom) / 2 - upper) * down;
    const text = `${Math.round(density).toLocaleString()}/m`;
    const long = context.measureText(text).width + 10;
    context.fillStyle = "rgb(37 33 28 / 0.85)";
    context.fillRect(x - long / 2, y - 9, long, 18);
    context.fillStyle = "#f7f4ef";
    context.fillText(text, x, y);
  }
}

function useLayer(
  canvas: RefObject<HTMLCanvasElement | null>,
  { islands, shows, view, width, height }: Props,
  density: HTMLImageElement | null,
  figures: Figures,
) {
  const { mesh, material, sheet } = islands;
  const { left, top, scale } = view;
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!canvas.current || !context) return;
    const dots = devicePixelRatio;
    canvas.current.width = Math.round(view.width * dots);
    canvas.current.height = Math.round(view.height * dots);
    const [across, down] = [width * scale, height * scale];
    if (shows === "density" && density) {
      context.setTransform(dots, 0, 0, dots, 0, 0);
      context.fillStyle = "#777777";
      context.globalAlpha = 0.7;
      context.fillRect(left, top, across, down);
      context.globalAlpha = 0.9;
      context.drawImage(density, left, top, across, down);
      context.globalAlpha = 1;
    }
    context.setTransform(dots, 0, 0, dots, left * dots, top * dots);
    const groups = groupsOf(mesh, material);
    const few = groups.reduce((sum, one) => sum + one.count, 0) <= MOST_DRAWN;
    if (shows === "outline" && few) {
      context.beginPath();
      for (const { first, count } of groups)
        for (let t = first * 3; t < (first + count) * 3; t += 3)
          for (let side = 0; side < 3; side++) {
            const from = 2 * (mesh.corners[t + side] as number);
            const to = 2 * (mesh.corners[t + ((side + 1) % 3)] as number);
            context.moveTo((mesh.uvs[from] ?? 0) * across, (mesh.uvs[from + 1] ?? 0) * down);
            context.lineTo((mesh.uvs[to] ?? 0) * across, (mesh.uvs[to + 1] ?? 0) * down);
          }
      context.strokeStyle = "rgb(247 244 239 / 0.35)";
      context.lineWidth = 0.5;
      context.stroke();
    }
    context.beginPath();
    for (const { first_border, borders } of groups)
      for (let i = first_border * 4; i < (first_border + borders) * 4; i += 4) {
        context.moveTo((mesh.borders[i] ?? 0) * across, (mesh.borders[i + 1] ?? 0) * down);
        context.lineTo((mesh.borders[i + 2] ?? 0) * across, (mesh.borders[i + 3] ?? 0) * down);
      }
    // Dark line under a light one, visible on any map.
    context.lineCap = "round";
    for (const [color, thick] of [
      ["rgb(37 33 28 / 0.75)", 2.6],
      ["#f7f4ef", 1.1],
    ] as const) {
      context.strokeStyle = color;
      context.lineWidth = thick;
      context.stroke();
    }
    if (shows === "density") label(context, figures, sheet, [across, down]);
  }, [
    canvas,
    mesh,
    material,
    sheet,
    shows,
    density,
    figures,
    left,
    top,
    scale,
    width,
    height,
    view.width,
    view.height,
  ]);
}
