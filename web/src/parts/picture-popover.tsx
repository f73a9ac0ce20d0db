// A thumbnail that opens an enlarged picture with a caption.
import { Popover } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  /** Its URL. */
  picture: string;
  label: string;
  title: string;
  children: ReactNode;
}

export function PicturePopover({ picture, label, title, children }: Props) {
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={label}
        title={title}
        className="size-8.5 shrink-0 overflow-hidden rounded-sm border border-rule hover:border-copper"
      >
        <img src={picture} alt="" className="size-full object-cover" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={8}
          className="z-30 w-85 rounded-md border border-rule bg-card p-3 shadow-lg"
        >
          <img src={picture} alt={label} className="w-full rounded-sm" />
          <p className="mt-2 text-second">{children}</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
