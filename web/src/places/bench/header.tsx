// Header of the set editor: set, resulting size, undo and redo, recipes, delivery.

import { BookOpen, Box, Images, Redo2, Undo2 } from "lucide-react";
import { Link } from "react-router";
import { useAway } from "@/api/away";
import type { SetRead, SurfaceSpec } from "@/api/client";
import { Button, buttonClass } from "@/parts/button";
import { metres } from "@/parts/format";
import { Badge } from "@/parts/marks";
import { SavingState } from "@/parts/saving-state";
import type { Sheet } from "@/parts/sheet";
import { TileGrid } from "@/parts/tile-grid";
import { ChecklistButton } from "@/places/checklist/checklist-button";
import { tilingLabel } from "./tiling";
import type { DraftState } from "./use-draft";

interface Props {
  set: SetRead;
  /** Texel size after preparation. */
  size: { width: number; height: number };
  sheet: Sheet | null;
  surface: SurfaceSpec;
  error: string | null;
  state: DraftState;
  deliver: string;
  onRecipes: () => void;
  project: string;
  /** The checklist opens above the views. */
  checklist: boolean;
  onChecklist: () => void;
  /** Toggle of the interpretations; absent if the set isn't derived from a photo. */
  onReadings: (() => void) | undefined;
  /** Name of the linked model. */
  model: string | null;
}

export function Header({
  set,
  size,
  sheet,
  surface,
  error,
  state,
  deliver,
  project,
  checklist,
  onChecklist,
  onRecipes,
  onReadings,
  model,
}: Props) {
  // A save error needs the space for its message.
  const away = useAway((one) => one.why !== null);
  const troubled = !["saved", "saving"].includes(state.saving.state);
  return (
    <div className="flex h-bar shrink-0 items-center gap-3">
      <h1 className="truncate text-title font-semibold">{set.name}</h1>
      <span className={`text-second whitespace-nowrap figures ${troubled ? "hidden" : ""}`}>
        {sheet
          ? `${sheet.numbers.length} tiles of ${Math.round(size.width / sheet.columns)} × ${Math.round(size.height / sheet.rows)}`
          : `${size.width} × ${size.height}`}
        {!model &&
          ` · ${metres(surface.tile_size)} · ${Math.round(size.width / surface.tile_size)} px/m`}
      </span>
      {sheet && !troubled && <TileGrid numbers={sheet.numbers} />}
      {model && !troubled && (
        <Link
          to={`/${project}/models`}
          title="The model linked to this set"
          className="inline-flex items-center gap-1 text-second hover:text-copper"
        >
          <Box className="size-4" aria-hidden="true" /> {model}
        </Link>
      )}
      {!troubled && !model && !sheet && <Badge tone="calm">{tilingLabel(surface.wrap)}</Badge>}
      {set.blended_of.below && !troubled && (
        <span title={`${set.blended_of.above} over ${set.blended_of.below}`}>
          <Badge tone="calm">blended</Badge>
        </span>
      )}
      {error && !away && <Badge tone="wrong">△ {error}</Badge>}
      <span className="ml-auto" />
      <SavingState {...state} />
      <ChecklistButton project={project} set={set} pressed={checklist} onClick={onChecklist} />
      {onReadings && (
        <Button onClick={onReadings} title="Q">
          <Images className="size-4" /> Starting points…
        </Button>
      )}
      <Button onClick={onRecipes} title="Shift+R">
        <BookOpen className="size-4" /> Recipes…
      </Button>
      <History set={set} step={state.step} />
      <Link to={deliver} className={buttonClass("main")}>
        Deliver…
      </Link>
    </div>
  );
}

function History({ set, step }: { set: SetRead; step: (to: "undo" | "redo") => void }) {
  return (
    <>
      <Button disabled={!set.can_undo} title="Ctrl+Z" onClick={() => step("undo")}>
        <Undo2 className="size-4" /> Undo
      </Button>
      <Button
        disabled={!set.can_redo}
        title="Ctrl+Shift+Z"
        aria-label="Redo"
        onClick={() => step("redo")}
      >
        <Redo2 className="size-4" />
      </Button>
    </>
  );
}
