// Tool buttons, and the properties of every column.
import type { ReactNode } from "react";
import type { Preparation, PreparedFacts } from "@/api/client";
import { Button } from "@/parts/button";
import type { Change } from "../use-draft";
import type { Tool } from "./preparing";

export interface ColumnProps {
  prepare: Preparation;
  facts: PreparedFacts;
  tool: Tool | null;
  onTool: (tool: Tool | null) => void;
  onMove: (change: Change) => void;
  onCommit: (change: Change) => void;
}

/** A toggle button for a tool on the picture. */
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
    <Button
      aria-pressed={tool === of}
      disabled={disabled}
      onClick={() => onTool(tool === of ? null : of)}
      look="tool"
    >
      {children}
    </Button>
  );
}
