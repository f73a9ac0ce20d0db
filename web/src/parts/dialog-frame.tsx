// A dialog with a title and a close button.
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  title: ReactNode;
  about?: ReactNode;
  /** Class names for width, padding and layout. */
  look: string;
  children: ReactNode;
  onClose: () => void;
}

export function DialogFrame({ title, about, look, children, onClose }: Props) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-30 -translate-1/2 rounded-md border border-rule bg-card ${look}`}
        >
          <div className="mb-3 flex items-baseline gap-3">
            <Dialog.Title className="text-lead font-semibold">{title}</Dialog.Title>
            {about && <span className="text-second">{about}</span>}
            <Dialog.Close aria-label="Close" className="ml-auto text-second hover:text-ink">
              <X className="size-4" aria-hidden="true" />
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
