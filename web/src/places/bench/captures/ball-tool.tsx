// The ball in the captures, marked by a circle; its shading determines the lights.
import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { CapturesSpec } from "@/api/client";
import { fittedLights } from "@/api/jobs";
import { notify } from "@/parts/notices";
import type { ToolProps } from "../prepare/frame-tools";
import { Handle } from "../prepare/handle";
import { type Place, within } from "../prepare/preparing";
import { asked, type Draft, type DraftState } from "../use-draft";
import { withShots } from "./captures";
import { Circle } from "./circle";

const LEAST = 0.005;

interface Props extends ToolProps {
  setId: number;
  draft: Draft;
  state: DraftState;
}

export function BallTool({ lay, shown, setId, draft, state }: Props) {
  const kept = draft.captures?.ball ?? null;
  const [ball, setBall] = useState(kept);
  useEffect(() => setBall(kept), [kept]);
  const tell = useMutation({
    mutationFn: (at: NonNullable<CapturesSpec["ball"]>) =>
      fittedLights(setId, { how: "ball", ball: at, draft: asked(draft) }),
    onSuccess: (found) => state.commit(withShots(found)),
    onError: (error) => {
      setBall(kept);
      notify("wrong", error.message);
    },
  });
  if (!ball) return null;
  // Values are fractions of the width, also vertically.
  const tall = lay.height / lay.width;
  const middle: Place = [ball.x, ball.y / tall];
  const rim: Place = [ball.x + ball.radius, ball.y / tall];
  const rest = () => ball && tell.mutate(ball);
  return (
    <>
      <Circle lay={lay} x={ball.x} y={ball.y} radius={ball.radius} className="stroke-copper-pale" />
      <Handle
        label="Center of the ball"
        place={middle}
        lay={lay}
        shown={shown}
        onMove={(place) => {
          const [x, y] = within(place);
          setBall({ ...ball, x, y: y * tall });
        }}
        onCommit={rest}
      />
      <Handle
        label="Edge of the ball"
        place={rim}
        lay={lay}
        shown={shown}
        onMove={([x]) => setBall({ ...ball, radius: Math.max(LEAST, Math.min(0.5, x - ball.x)) })}
        onCommit={rest}
      />
      {tell.isPending && (
        <output className="absolute bottom-2.5 left-2.5 rounded-sm bg-ink/85 px-2 py-0.5 text-sheet">
          estimating lights from the ball…
        </output>
      )}
    </>
  );
}
