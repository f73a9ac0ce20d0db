// A wide window over the page: what it is about, what went wrong or is awaited, and its content.
import type { ReactNode } from "react";
import { DialogFrame } from "./dialog-frame";

interface Props {
  title: ReactNode;
  about: ReactNode;
  error: Error | null;
  /** What is being done until there is content. */
  waiting: string;
  /** Nothing until the content has come. */
  children: ReactNode;
  onClose: () => void;
}

export function WideDialog({ title, about, error, waiting, children, onClose }: Props) {
  return (
    <DialogFrame title={title} about={about} look="w-[min(1180px,94vw)] p-4" onClose={onClose}>
      {error && (
        <p role="alert" className="rounded-md bg-wrong-pale p-3 text-wrong">
          {error.message}
        </p>
      )}
      {!children && !error && <p className="text-second">{waiting}</p>}
      {children}
    </DialogFrame>
  );
}
