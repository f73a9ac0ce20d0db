// Control of the light direction: drag the dot over the hemisphere, or use the arrow keys.
import { useRef } from "react";

export interface Light {
  /** Azimuth in degrees, 0 is right, 90 is up. */
  azimuth: number;
  /** Elevation in degrees above the surface. */
  elevation: number;
}

const RADIUS = 27;
const DOT = 6;

export function LightDial({ light, onTurn }: { light: Light; onTurn: (light: Light) => void }) {
  const dial = useRef<HTMLDivElement>(null);
  const reach = Math.cos((light.elevation * Math.PI) / 180) * (RADIUS - DOT);
  const x = RADIUS + reach * Math.cos((light.azimuth * Math.PI) / 180);
  const y = RADIUS - reach * Math.sin((light.azimuth * Math.PI) / 180);

  function point(event: React.PointerEvent) {
    const box = dial.current?.getBoundingClientRect();
    if (!box) return;
    const right = event.clientX - box.left - RADIUS;
    const above = box.top + RADIUS - event.clientY;
    const share = Math.min(1, Math.hypot(right, above) / (RADIUS - DOT));
    onTurn({
      azimuth: Math.round(((Math.atan2(above, right) * 180) / Math.PI + 360) % 360),
      elevation: Math.max(4, Math.round((Math.acos(share) * 180) / Math.PI)),
    });
  }

  return (
    <div
      ref={dial}
      role="slider"
      tabIndex={0}
      aria-label="Light"
      aria-valuenow={light.azimuth}
      aria-valuemin={0}
      aria-valuemax={359}
      aria-valuetext={`azimuth ${light.azimuth}°, elevation ${light.elevation}°`}
      title="Drag to move the light, or use the arrow keys"
      className="absolute bottom-2.5 right-2.5 touch-none rounded-full border border-sheet/70 bg-ink/70"
      style={{ width: RADIUS * 2, height: RADIUS * 2 }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        point(event);
      }}
      onPointerMove={(event) => event.buttons && point(event)}
      onKeyDown={(event) => {
        const turn = {
          ArrowLeft: [6, 0],
          ArrowRight: [-6, 0],
          ArrowUp: [0, 4],
          ArrowDown: [0, -4],
        }[event.key];
        if (!turn) return;
        event.preventDefault();
        onTurn({
          azimuth: (light.azimuth + (turn[0] ?? 0) + 360) % 360,
          elevation: Math.min(90, Math.max(4, light.elevation + (turn[1] ?? 0))),
        });
      }}
    >
      <svg className="size-full" aria-hidden="true">
        <line x1={RADIUS} y1={RADIUS} x2={x} y2={y} className="stroke-sheet" />
        <circle cx={x} cy={y} r={DOT} className="fill-ochre-pale stroke-ochre" />
      </svg>
    </div>
  );
}
