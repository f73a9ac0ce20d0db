// A wide window over the page: what it is about, what went wrong or is awaited, and its content.
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

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
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-30 w-[min(1180px,94vw)] -translate-1/2 rounded-md border border-rule bg-card p-4"
        >
          <div className="mb-3 flex items-baseline gap-3">
            <Dialog.Title className="text-[16px] font-semibold">{title}</Dialog.Title>
            <span className="text-second">{about}</span>
            <Dialog.Close aria-label="Close" className="ml-auto text-second hover:text-ink">
              <X className="size-4" aria-hidden="true" />
            </Dialog.Close>
          </div>
          {error && (
            <p role="alert" className="rounded-md bg-wrong-pale p-3 text-wrong">
              {error.message}
            </p>
          )}
          {!children && !error && <p className="text-second">{waiting}</p>}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
