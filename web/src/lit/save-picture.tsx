// Save the lit view as a picture of any size, without overlays.
import { useMutation } from "@tanstack/react-query";
import { Camera } from "lucide-react";
import { type RefObject, useState } from "react";
import { Button } from "@/parts/button";
import { NumberField } from "@/parts/number-field";
import type { TakePicture } from "./stage";

export function SavePicture({ camera }: { camera: RefObject<TakePicture | null> }) {
  const [width, setWidth] = useState(2048);
  const save = useMutation({
    mutationFn: async () => {
      const picture = await camera.current?.(width);
      if (!picture) return;
      const address = URL.createObjectURL(picture);
      const link = document.createElement("a");
      link.href = address;
      link.download = "lit.png";
      link.click();
      URL.revokeObjectURL(address);
    },
  });
  return (
    <div className="flex items-center gap-2 border-t border-rule pt-2.5">
      <span className="w-20">
        <NumberField
          label="Width of the picture in pixels"
          value={width}
          low={64}
          high={8192}
          places={0}
          step={64}
          onCommit={(next) => setWidth(Math.round(next))}
        />
      </span>
      <span className="text-second">wide</span>
      <Button className="ml-auto" disabled={save.isPending} onClick={() => save.mutate()}>
        <Camera className="size-4" aria-hidden="true" />
        {save.isPending ? "Rendering…" : "Save picture"}
      </Button>
    </div>
  );
}
