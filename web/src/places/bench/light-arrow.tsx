// Light direction of the photo, as an arrow on the flat view that can be rotated.
import { useRef } from "react";
import type { LightRead, MapKind, OperationRead } from "@/api/client";
import { editing } from "./map-definitions";
import type { DraftState } from "./use-draft";

const SIDE = 72;

interface Props {
  /** Degrees: 0 is right, 90 the top. */
  from: number;
  /** Controls the light direction of the relief; otherwise displays a measurement. */
  used: boolean;
  onMove: (from: number) => void;
  onCommit: (from: number) => void;
}

/** Degrees from 0 to below 360, whole. */
export function turned(degrees: number): number {
  return ((Math.round(degrees) % 360) + 360) % 360;
}

function LightArrow({ from, used, onMove, onCommit }: Props) {
  const last = useRef(from);
  const angle = (from * Math.PI) / 180;
  const [x, y] = [Math.cos(angle), -Math.sin(angle)];
  function put(event: React.PointerEvent) {
    const box = event.currentTarget.getBoundingClientRect();
    const across = event.clientX - box.left - box.width / 2;
    const up = box.top + box.height / 2 - event.clientY;
    last.current = turned((Math.atan2(up, across) * 180) / Math.PI);
    onMove(last.current);
  }
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Light direction in the photo"
      aria-valuenow={turned(from)}
      aria-valuemin={0}
      aria-valuemax={359}
      aria-valuetext={`azimuth ${turned(from)}°${used ? "" : ", not used"}`}
      title="Light direction in the photo: drag to rotate"
      className={`absolute right-2.5 bottom-2.5 size-18 cursor-grab touch-none rounded-full bg-ink/75 ${used ? "" : "opacity-60"}`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        put(event);
      }}
      onPointerMove={(event) => event.buttons && put(event)}
      onPointerUp={() => onCommit(last.current)}
      onKeyDown={(event) => {
        const step = { ArrowLeft: 5, ArrowUp: 5, ArrowRight: -5, ArrowDown: -5 }[event.key];
        if (step) onCommit(turned(from + step));
      }}
    >
      <svg viewBox={`${-SIDE / 2} ${-SIDE / 2} ${SIDE} ${SIDE}`} aria-hidden="true">
        <circle r={25} className="fill-none stroke-sheet/40" strokeWidth={1} />
        {/* In the direction of the light: from the rim to the center. */}
        <line
          x1={x * 29}
          y1={y * 29}
          x2={x * 7}
          y2={y * 7}
          className="stroke-copper-pale"
          strokeWidth={2.5}
        />
        <path
          d="M 0 0 L 11 -5.5 L 11 5.5 Z"
          transform={`rotate(${-from}) translate(1 0)`}
          className="fill-copper-pale"
        />
        <circle cx={x * 29} cy={y * 29} r={4.5} className="fill-copper stroke-sheet" />
      </svg>
    </div>
  );
}

interface PhotoLightProps {
  state: DraftState;
  kind: MapKind;
  light: LightRead | null;
  operation: OperationRead | undefined;
  onMoving: (moving: boolean) => void;
}

/** The arrow of the photo's light, on a map that can follow it. */
export function PhotoLight({ state, kind, light, operation, onMoving }: PhotoLightProps) {
  const definition = state.draft.maps[kind];
  const follows = operation?.parameters.some((one) => one.name === "light_direction");
  if (definition?.how !== "derived" || !follows) return null;
  const shading = Number(definition.parameters?.shading ?? 0);
  const share = shading || (light?.lit ? light.share : 0);
  if (!share) return null;
  const stated = definition.parameters?.light_direction ?? (shading > 0 ? 135 : light?.azimuth);
  const put = (from: number) =>
    editing(kind, definition, (now) => ({
      ...now,
      parameters: { ...now.parameters, shading: share, light_direction: from },
    }));
  return (
    <LightArrow
      from={Number(stated)}
      used={shading > 0}
      onMove={(from) => {
        onMoving(true);
        state.move(put(from));
      }}
      onCommit={(from) => {
        onMoving(false);
        state.commit(put(from));
      }}
    />
  );
}
