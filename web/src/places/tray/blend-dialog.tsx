// Blend two sets into a new one: order and name.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ArrowDownUp } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, type TrayRow } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { notify } from "@/parts/notices";

interface Props {
  project: string;
  /** The two sets. */
  rows: [TrayRow, TrayRow];
  onClose: () => void;
}

export function BlendDialog({ project, rows, onClose }: Props) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [turned, setTurned] = useState(false);
  const [typed, setTyped] = useState<string | null>(null);
  const [below, above] = turned ? [rows[1], rows[0]] : rows;
  const name = typed ?? `${below.name}_${above.name}`.slice(0, 100);
  const blend = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/projects/{project}/blends", {
          params: { path: { project } },
          body: { below: below.id, above: above.id, name: name.trim() },
        }),
      ),
    onSuccess: async (made) => {
      notify("good", `Set ${made.name} was created from ${below.name} and ${above.name}.`);
      await refresh(client, queries.tray(project).queryKey);
      navigate(`/${project}/bench/${made.id}/mask_1`);
    },
  });
  return (
    <DialogFrame title="Blend two sets" look="w-120 p-5" onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          blend.mutate();
        }}
      >
        <div className="flex items-center gap-3 rounded-sm border border-rule bg-sheet p-3">
          <dl className="grid min-w-0 grow grid-cols-[4rem_1fr] gap-y-1.5">
            <dt className="text-second">Upper set</dt>
            <dd className="truncate font-medium">{above.name}</dd>
            <dt className="text-second">Lower set</dt>
            <dd className="truncate font-medium">{below.name}</dd>
          </dl>
          <Button onClick={() => setTurned((now) => !now)}>
            <ArrowDownUp className="size-4" aria-hidden="true" /> Swap
          </Button>
        </div>
        <p className="mt-3 text-list text-second">
          {below.name} determines the width and size. {above.name} is repeated to fill it. A mask
          defines where the upper set covers the lower one; on the Bench you can base it on both
          heights, a map, a gradient or noise. All other maps use the same mask. Both sets stay
          unchanged.
        </p>
        <label className="mt-4 flex items-center gap-3">
          <span className="text-second">Name</span>
          <input
            className="h-control grow rounded-sm border border-rule bg-card px-2"
            value={name}
            onChange={(event) => setTyped(event.target.value)}
          />
        </label>
        <div aria-live="polite" className="min-h-8 pt-2 text-list">
          {blend.error && <p className="text-wrong">△ {blend.error.message}</p>}
          {blend.isPending && <p className="text-second">measuring both heights…</p>}
        </div>
        <div className="flex justify-end gap-2">
          <Button look="bare" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="main" disabled={blend.isPending || !name.trim()}>
            Blend
          </Button>
        </div>
      </form>
    </DialogFrame>
  );
}
