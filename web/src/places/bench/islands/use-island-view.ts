// State of the UV overlay on the flat map, and the pointer's position on the map.
import { useState } from "react";
import { useCommands } from "@/parts/commands";
import { following } from "@/parts/options";
import type { View } from "../use-view";
import { type IslandsOfSet, type IslandView, islandViews } from "./island-layer";

interface DiskState {
  view: View;
  width: number;
  height: number;
}

export function useIslandView(islands: IslandsOfSet | null, { view, width, height }: DiskState) {
  const [shows, show] = useState<IslandView>("off");
  useCommands(
    islands
      ? [
          {
            id: "flat-islands",
            label: "Flat view: map only, UV islands, texel density",
            keys: "i",
            run: () => show((now) => following(islandViews, now)),
          },
        ]
      : [],
  );
  return {
    shows,
    show,
    /** In pixels of the view. */
    point: (at: { x: number; y: number } | null) => {
      if (!islands) return;
      if (!at) return islands.onPoint(null);
      const u = (at.x - view.left) / (width * view.scale);
      const v = (at.y - view.top) / (height * view.scale);
      islands.onPoint(u >= 0 && v >= 0 && u < 1 && v < 1 ? { u, v } : null);
    },
  };
}
