// The divider between two pictures: dragged, or moved with the arrow keys.
import { MoveHorizontal } from "lucide-react";

interface WipeProps {
  share: number;
  left: string;
  right: string;
  onMove: (share: number) => void;
}

export function PictureDivider({ share, left, right, onMove }: WipeProps) {
  const put = (next: number) => onMove(Math.min(0.98, Math.max(0.02, next)));
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Compare divider"
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={2}
      aria-valuemax={98}
      aria-valuetext={`${left} left, ${right} right`}
      className="absolute inset-y-0 w-4 -translate-x-1/2 cursor-col-resize touch-none"
      style={{ left: `${share * 100}%` }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        const box = event.currentTarget.parentElement?.getBoundingClientRect();
        if (event.buttons && box) put((event.clientX - box.left) / box.width);
      }}
      onKeyDown={(event) => {
        const turn = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (turn) put(share + turn);
      }}
    >
      <span className="absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2 bg-card" />
      <span className="absolute top-1/2 left-1/2 grid size-6 -translate-1/2 place-items-center rounded-full bg-card text-ink">
        <MoveHorizontal className="size-3.5" aria-hidden="true" />
      </span>
      <span className="absolute right-5 bottom-12 whitespace-nowrap rounded-sm bg-card/90 px-2 py-0.5 font-medium">
        {left}
      </span>
      <span className="absolute bottom-12 left-5 whitespace-nowrap rounded-sm bg-card/90 px-2 py-0.5 font-medium">
        {right}
      </span>
    </div>
  );
}
