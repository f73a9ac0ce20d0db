// The sets in Intake, virtualized.
import { useVirtualizer } from "@tanstack/react-virtual";
import { useLayoutEffect, useRef, useState } from "react";
import type { ArrivalRead, AssignmentChange } from "@/api/client";
import type { Choices } from "./file-row";
import { GroupOfSet } from "./group-of-set";

const ROW = 66;
const HEAD = 50;

interface Props {
  groups: [string, ArrivalRead[]][];
  known: Record<string, number>;
  project: string;
  choices: Choices;
  chosen: ReadonlySet<number>;
  onChoose: (row: ArrivalRead, extend: boolean) => void;
  onChooseAll: (rows: ArrivalRead[], all: boolean) => void;
  onChange: (rows: ArrivalRead[], change: AssignmentChange) => void;
  onDismiss: (row: ArrivalRead) => void;
}

export function Groups({ groups, known, chosen, onChooseAll, ...rest }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const [above, setAbove] = useState(0);
  // The height above the list changes.
  useLayoutEffect(() => setAbove(list.current?.offsetTop ?? 0));
  const virtual = useVirtualizer({
    count: groups.length,
    getScrollElement: () => list.current?.closest("main") ?? null,
    estimateSize: (index) => HEAD + ROW * (groups[index]?.[1].length ?? 1),
    getItemKey: (index) => groups[index]?.[0] ?? index,
    overscan: 3,
    scrollMargin: above,
  });
  return (
    <div ref={list} className="relative shrink-0" style={{ height: virtual.getTotalSize() }}>
      {virtual.getVirtualItems().map((item) => {
        const [name, rows] = groups[item.index] ?? ["", []];
        return (
          <div
            key={item.key}
            ref={virtual.measureElement}
            data-index={item.index}
            className="absolute inset-x-0 top-0 pb-3"
            style={{ transform: `translateY(${item.start - above}px)` }}
          >
            <GroupOfSet
              name={name}
              rows={rows}
              known={known[name.toLowerCase()]}
              chosen={chosen}
              onChooseAll={(all) => onChooseAll(rows, all)}
              {...rest}
            />
          </div>
        );
      })}
    </div>
  );
}
