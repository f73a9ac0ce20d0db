// Menu of the maps that can be added to a set, and a mask with a name of the user's own.
import { Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";
import type { KindRead } from "@/api/client";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { maskKind, maskOf } from "@/parts/kinds";

interface Props {
  missing: KindRead[];
  onAdd: (kind: KindRead) => void;
}

export function AddMap({ missing, onAdd }: Props) {
  // Open the settings of an added map; returning here would close them.
  const added = useRef(false);
  const [names, setNames] = useState(false);
  return (
    <>
      {names && (
        <NamedMask
          onClose={() => setNames(false)}
          onAdd={(kind) => {
            setNames(false);
            onAdd(kind);
          }}
        />
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="flex h-16 w-full items-center justify-center gap-1.5 rounded-md border border-dashed border-rule text-second hover:bg-sheet hover:text-ink">
          <Plus className="size-4" /> Add map
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            sideOffset={4}
            collisionPadding={12}
            onCloseAutoFocus={(event) => {
              if (added.current) event.preventDefault();
              added.current = false;
            }}
            className="z-30 grid max-h-110 grid-cols-3 overflow-auto rounded-sm border border-rule bg-card p-1"
          >
            {missing.map((kind) => (
              <DropdownMenu.Item
                key={kind.kind}
                onSelect={() => {
                  added.current = true;
                  onAdd(kind);
                }}
                className="cursor-pointer rounded-sm px-3 py-1 outline-none data-highlighted:bg-copper-pale"
              >
                {kind.title}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Item
              onSelect={() => {
                added.current = true;
                setNames(true);
              }}
              className="cursor-pointer rounded-sm px-3 py-1 outline-none data-highlighted:bg-copper-pale"
            >
              Mask with a name…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}

/** Asks for the name of a mask. */
function NamedMask({ onAdd, onClose }: { onAdd: (kind: KindRead) => void; onClose: () => void }) {
  const [name, setName] = useState("");
  const kind = maskOf(name);
  return (
    <DialogFrame title="Mask with a name" look="w-90 p-5" onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (kind) onAdd(maskKind(kind));
        }}
      >
        <input
          aria-label="Name of the mask"
          placeholder="edge wear"
          maxLength={40}
          className="h-field w-full rounded-sm border border-rule bg-card px-1.5"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <p className="mt-1.5 text-small text-second">
          Targets and recipes find the mask by its name: {kind ?? "mask_name"}
        </p>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" type="submit" disabled={!kind}>
            Add mask
          </Button>
        </div>
      </form>
    </DialogFrame>
  );
}
