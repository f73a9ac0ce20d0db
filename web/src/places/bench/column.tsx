// Columns of the settings panel, and which of them are expanded: as many as fit.
import { ChevronDown, ChevronRight } from "lucide-react";
import { type ReactNode, useState } from "react";

const COLUMN = 262;
const KEPT = "sieve:columns";

/** A column of the settings panel; with `onFold` its title collapses it. */
export function Column({
  title,
  wide = true,
  onFold,
  children,
}: {
  title: string;
  wide?: boolean;
  onFold?: () => void;
  children: ReactNode;
}) {
  return (
    <section
      aria-label={title}
      className={wide ? "min-w-59.5 max-w-87.5 flex-1" : "w-37.5 shrink-0"}
    >
      <h2 className="mb-1 text-small font-medium text-second">
        {onFold ? (
          <button
            type="button"
            aria-expanded
            className="flex items-center gap-1 hover:text-ink"
            onClick={onFold}
          >
            {title} <ChevronDown className="size-3" aria-hidden="true" />
          </button>
        ) : (
          title
        )}
      </h2>
      {children}
    </section>
  );
}

interface Folded {
  title: string;
  /** Number of controls that differ from their defaults. */
  changed: number;
}

/** Titles of the collapsed columns. */
export function FoldedColumns({
  folded,
  onOpen,
}: {
  folded: Folded[];
  onOpen: (title: string) => void;
}) {
  if (folded.length === 0) return null;
  return (
    <section aria-label="More" className="w-32 shrink-0">
      <h2 className="mb-1 text-small font-medium text-second">More</h2>
      {folded.map((one) => (
        <button
          key={one.title}
          type="button"
          aria-expanded={false}
          className="flex h-field w-full items-center gap-1 truncate rounded-sm text-left hover:bg-sheet"
          onClick={() => onOpen(one.title)}
        >
          <ChevronRight className="size-3.5 shrink-0 text-second" aria-hidden="true" />
          <span className="truncate">{one.title}</span>
          {one.changed > 0 && (
            <span className="ml-auto pr-1 text-copper figures" title="changed settings">
              {one.changed}
            </span>
          )}
        </button>
      ))}
    </section>
  );
}

function remembered(): Record<string, string[]> {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "{}");
  } catch {
    return {};
  }
}

/**
 * Expanded columns in order: initially as many as fit, then as the user left them. If there is no
 * space for another one, the panel scrolls horizontally.
 */
export function useColumns(name: string, titles: string[]) {
  const room = Math.max(2, Math.floor((innerWidth - 64 - 174 - 152) / COLUMN));
  const [order, setOrder] = useState<string[]>(() => {
    const last = titles.at(-1);
    const usual = [...titles.slice(0, Math.max(1, room - 1)), ...(last ? [last] : [])];
    return remembered()[name] ?? [...new Set(usual)];
  });
  const put = (next: string[]) => {
    localStorage.setItem(KEPT, JSON.stringify({ ...remembered(), [name]: next }));
    setOrder(next);
  };
  return {
    isOpen: (title: string) => order.includes(title),
    open: (title: string) => {
      const kept = order.filter((one) => titles.includes(one) && one !== title);
      put([...kept, title]);
      requestAnimationFrame(() => {
        const section = document.querySelector(`section[aria-label="${CSS.escape(title)}"]`);
        section?.scrollIntoView({ block: "nearest", inline: "nearest" });
      });
    },
    fold: (title: string) => put(order.filter((one) => one !== title)),
  };
}
