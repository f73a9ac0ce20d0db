// Upper part of the Bench: two views side by side.
import { useCallback, useRef, useState } from "react";

const SPLIT_KEPT = "sieve:bench-split";

/** Two views and a divider that is dragged or moved with the arrow keys. */
interface Props {
  flat: React.ReactNode;
  lit: React.ReactNode;
  /** Overlay above both views, whose state is preserved. */
  over: React.ReactNode;
}

export function Windows({ flat, lit, over }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [split, setSplit] = useState(() => Number(localStorage.getItem(SPLIT_KEPT)) || 0.5);
  const put = useCallback((share: number) => {
    const kept = Math.min(0.8, Math.max(0.2, share));
    localStorage.setItem(SPLIT_KEPT, String(kept));
    setSplit(kept);
  }, []);
  return (
    <div ref={frame} className="relative flex min-h-60 grow">
      <div style={{ width: `${split * 100}%` }} className="min-w-0">
        {flat}
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a divider that moves is no <hr> */}
      <div
        role="separator"
        aria-label="Divider between flat view and lit view"
        aria-orientation="vertical"
        aria-valuenow={Math.round(split * 100)}
        aria-valuemin={20}
        aria-valuemax={80}
        tabIndex={0}
        className="group grid w-3 shrink-0 cursor-col-resize touch-none place-items-center"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={(event) => {
          const box = frame.current?.getBoundingClientRect();
          if (event.buttons && box) put((event.clientX - box.left) / box.width);
        }}
        onKeyDown={(event) => {
          const turn = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
          if (turn) put(split + turn);
        }}
      >
        <span className="h-10 w-0.75 rounded-full bg-rule group-hover:bg-copper" />
      </div>
      <div className="min-w-0 grow">{lit}</div>
      {over && <div className="absolute inset-0 z-10">{over}</div>}
    </div>
  );
}
