// The drop area at the bottom of a view; files can be dropped anywhere, or chosen by clicking it.

interface Props {
  /** Files are being dragged over the page. */
  over: boolean;
  title: string;
  children: React.ReactNode;
  onClick: () => void;
}

export function DropHere({ over, title, children, onClick }: Props) {
  return (
    <button
      type="button"
      onClick={onClick}
      className={`mt-4 grid grow place-items-center rounded-md border border-dashed p-8 ${
        over ? "border-copper bg-copper-pale" : "border-rule hover:bg-sheet"
      }`}
    >
      <span className="text-center text-second">
        <span className="block text-lead font-medium text-ink">{title}</span>
        {children}
      </span>
    </button>
  );
}
