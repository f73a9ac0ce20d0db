// Search for sets: text, clickable filters, sorting and grouping.
import { ListFilter, Search, X } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { type RefObject, useMemo } from "react";
import type { TrayRow } from "@/api/client";
import { Choice } from "@/parts/choice";
import { words } from "@/parts/format";
import { type Grouping, groupings, type Order, orders, typed } from "./filter";

export interface Arrangement {
  find: string;
  order: Order;
  grouping: Grouping;
}

interface Props extends Omit<Arrangement, "grouping"> {
  /** Null if there are no groups. */
  grouping: Grouping | null;
  rows: TrayRow[];
  shown: number;
  field: RefObject<HTMLInputElement | null>;
  onChange: (change: Partial<Arrangement>) => void;
}

export function FilterBar({ rows, shown, find, order, grouping, field, onChange }: Props) {
  const add = (term: string) => onChange({ find: find ? `${find.trim()} ${term}` : term });
  return (
    <search className="flex shrink-0 items-center gap-2 pb-2.5">
      <label className="flex h-control grow items-center gap-2 rounded-md border border-rule bg-card px-2.5">
        <Search className="size-4 text-second" aria-hidden="true" />
        <input
          ref={field}
          aria-label="Filter sets"
          placeholder="Filter by name, tag, note or source card… ( / )"
          className="min-w-0 grow bg-transparent outline-none placeholder:text-second"
          value={find}
          onChange={(event) => onChange({ find: event.target.value })}
          onKeyDown={(event) => {
            if (event.key === "Escape") onChange({ find: "" });
          }}
        />
        {find && (
          <>
            <span role="status" className="text-second figures">
              {shown} of {rows.length}
            </span>
            <button
              type="button"
              aria-label="Clear filter"
              className="text-second hover:text-ink"
              onClick={() => onChange({ find: "" })}
            >
              <X className="size-4" aria-hidden="true" />
            </button>
          </>
        )}
      </label>
      <NarrowMenu rows={rows} onAdd={add} />
      <span className="w-36">
        <Choice
          label="Sort by"
          value={order}
          options={orders.map((one) => ({ ...one, label: `sort by ${one.label}` }))}
          onChange={(next) => onChange({ order: next as Order })}
        />
      </span>
      {grouping && (
        <span className="w-44">
          <Choice
            label="Group by"
            value={grouping}
            options={groupings}
            onChange={(next) => onChange({ grouping: next as Grouping })}
          />
        </span>
      )}
    </search>
  );
}

const item =
  "cursor-pointer py-1 pr-4 pl-3 outline-none data-highlighted:bg-copper-pale first-letter:uppercase";
const sub = "z-30 max-h-80 overflow-auto rounded-sm border border-rule bg-card py-1";

/** Available filters with the existing values. */
function NarrowMenu({ rows, onAdd }: { rows: TrayRow[]; onAdd: (term: string) => void }) {
  const lists = useMemo(() => valuesIn(rows), [rows]);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="inline-flex h-control items-center gap-1.5 rounded-md border border-rule bg-sheet px-3 font-medium hover:bg-card">
        <ListFilter className="size-4" aria-hidden="true" /> Filter
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className={sub}>
          {lists.map(({ title, values }) => (
            <DropdownMenu.Sub key={title}>
              <DropdownMenu.SubTrigger
                disabled={values.length === 0}
                className={`${item} data-disabled:text-second`}
              >
                {title}
              </DropdownMenu.SubTrigger>
              <DropdownMenu.Portal>
                <DropdownMenu.SubContent sideOffset={2} className={sub}>
                  {values.map(({ label, term }) => (
                    <DropdownMenu.Item key={term} className={item} onSelect={() => onAdd(term)}>
                      {label}
                    </DropdownMenu.Item>
                  ))}
                </DropdownMenu.SubContent>
              </DropdownMenu.Portal>
            </DropdownMenu.Sub>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function valuesIn(rows: TrayRow[]) {
  const kinds = [...new Set(rows.flatMap((row) => Object.keys(row.maps)))];
  const tags = [...new Set(rows.flatMap((row) => row.tags))].sort();
  const cards = [...new Set(rows.flatMap((row) => row.card ?? []))].sort();
  const of = (term: Parameters<typeof typed>[0], values: string[]) =>
    values.map((value) => ({ label: words(value), term: typed(term, value) }));
  return [
    { title: "stale, delivered, new", values: of("is", ["stale", "delivered", "new"]) },
    { title: "with a tag", values: of("tag", tags) },
    { title: "from a source card", values: of("card", cards) },
    { title: "with map", values: of("has", kinds) },
    { title: "without map", values: of("lacks", kinds) },
    { title: "with imported map", values: of("imported", kinds) },
    { title: "with derived map", values: of("derived", kinds) },
  ];
}
