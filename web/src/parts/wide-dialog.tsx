// Wide modal dialog: title, error or progress, and content.
import type { ReactNode } from "react";
import { DialogFrame } from "./dialog-frame";

interface Props {
  title: ReactNode;
  about: ReactNode;
  error: Error | null;
  /** Progress text until the content is available. */
  waiting: string;
  /** Empty until the content has loaded. */
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
