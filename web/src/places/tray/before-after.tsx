// Comparison of many sets before and after a change, under the same light; excluded sets don't
// change.
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { type Change, litChange, type TrayRow } from "@/api/client";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";

const ACROSS = 3;
const HEIGHT = 232;

interface Props {
  /** Description of the change. */
  title: string;
  rows: TrayRow[];
  change: Change;
  onTake: (ids: number[]) => void;
  onClose: () => void;
}

export function BeforeAfter({ title, rows, change, onTake, onClose }: Props) {
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const taken = rows.filter((row) => !left.has(row.id)).map((row) => row.id);
  const toggle = (id: number) =>
    setLeft((before) => {
      const after = new Set(before);
      if (!after.delete(id)) after.add(id);
      return after;
    });
  return (
    <DialogFrame
      title={title}
      about="Before and after under the same light. Deselect sets that should stay unchanged."
      look="flex h-[92vh] w-[96vw] flex-col p-4"
      onClose={onClose}
    >
      <Cards rows={rows} change={change} left={left} onToggle={toggle} />
      <div className="mt-3 flex items-center gap-3">
        <span aria-live="polite" className="text-second figures">
          {taken.length} of {rows.length} selected
        </span>
        <Button look="bare" onClick={() => setLeft(new Set())}>
          Select all
        </Button>
        <Button look="bare" onClick={() => setLeft(new Set(rows.map((row) => row.id)))}>
          Clear selection
        </Button>
        <Button
          look="main"
          className="ml-auto"
          disabled={taken.length === 0}
          onClick={() => onTake(taken)}
        >
          Change {taken.length} {taken.length === 1 ? "set" : "sets"}
        </Button>
      </div>
    </DialogFrame>
  );
}

interface CardsProps extends Pick<Props, "rows" | "change"> {
  left: ReadonlySet<number>;
  onToggle: (id: number) => void;
}

/** Three per row; only visible ones are computed. */
function Cards({ rows, change, left, onToggle }: CardsProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: Math.ceil(rows.length / ACROSS),
    getScrollElement: () => scroller.current,
    estimateSize: () => HEIGHT,
    overscan: 1,
  });
  return (
    <div ref={scroller} className="min-h-0 grow overflow-auto">
      <div className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => (
          <div
            key={item.key}
            className="absolute inset-x-0 top-0 grid grid-cols-3 gap-3 pb-3"
            style={{ height: HEIGHT, transform: `translateY(${item.start}px)` }}
          >
            {rows.slice(item.index * ACROSS, (item.index + 1) * ACROSS).map((row) => (
              <Card
                key={row.id}
                row={row}
                change={change}
                taken={!left.has(row.id)}
                onToggle={() => onToggle(row.id)}
              />
            ))}
          </div>
        ))}
      </div>
    </div>
  );
}

interface CardProps {
  row: TrayRow;
  change: Change;
  taken: boolean;
  onToggle: () => void;
}

function Card({ row, change, taken, onToggle }: CardProps) {
  return (
    <button
      type="button"
      aria-pressed={taken}
      className={`flex min-h-0 flex-col rounded-md border p-2 text-left ${
        taken ? "border-copper bg-copper-pale/40" : "border-rule bg-sheet"
      }`}
      onClick={onToggle}
    >
      <span className="grid min-h-0 grow grid-cols-2 gap-1.5">
        <Lit row={row} change={null} words="before" />
        <Lit row={row} change={change} words="after" />
      </span>
      <span className="mt-1.5 flex items-center gap-2">
        <span className="min-w-0 grow truncate font-medium">{row.name}</span>
        <span className={taken ? "text-copper" : "text-second"}>
          {taken ? "✓ selected" : "stays"}
        </span>
      </span>
    </button>
  );
}

interface LitProps {
  row: TrayRow;
  change: Change | null;
  words: string;
}

function Lit({ row, change, words }: LitProps) {
  const { data, error } = useQuery({
    queryKey: ["lit-change", row.id, row.version, change],
    queryFn: ({ signal }) => litChange(row.id, change, signal),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    retry: false,
  });
  return (
    <span className="relative block min-h-0 overflow-hidden rounded-sm bg-ground">
      {data && <img src={data} alt={`${row.name}, ${words}`} className="size-full object-cover" />}
      {error && (
        <span className="grid size-full place-items-center bg-sheet p-2 text-small text-ochre">
          {error.message}
        </span>
      )}
      <span
        aria-hidden="true"
        className="absolute bottom-1 left-1 rounded-sm bg-card/90 px-1.5 text-note"
      >
        {words}
      </span>
    </span>
  );
}
