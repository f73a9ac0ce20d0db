// A tool on the picture, and what every column of the drawer is given.
import type { ReactNode } from "react";
import type { Preparation, PreparedFacts } from "@/api/client";
import type { Change } from "../use-draft";
import type { Tool } from "./preparing";

export interface ColumnProps {
  prepare: Preparation;
  facts: PreparedFacts;
  tool: Tool | null;
  onTool: (tool: Tool | null) => void;
  onMove: (change: Change) => void;
  onSettle: (change: Change) => void;
}

/** A button that puts a tool on the picture, and takes it off again. */
export function ToolButton({
  of,
  tool,
  onTool,
  children,
  disabled,
}: Pick<ColumnProps, "tool" | "onTool"> & {
  of: Tool;
  children: ReactNode;
  disabled?: boolean;
}) {
  return (
    <button
      type="button"
      aria-pressed={tool === of}
      disabled={disabled}
      onClick={() => onTool(tool === of ? null : of)}
      className="inline-flex h-[26px] items-center gap-1.5 rounded-sm border border-rule bg-sheet px-2 text-[13px] whitespace-nowrap hover:bg-card disabled:opacity-50 aria-pressed:border-copper aria-pressed:bg-copper aria-pressed:text-white"
    >
      {children}
    </button>
  );
}
