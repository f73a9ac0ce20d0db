// A photo lit from one side is ambiguous: light from one direction on bumps, or from the
// opposite direction on dents. Both are suggested; a click selects one.
import { ArrowDown } from "lucide-react";
import type { LightRead } from "@/api/client";
import { Button } from "@/parts/button";

/** Parameters that an interpretation sets; `shading` 0 is even light. */
export interface Reading {
  shading: number;
  light_direction: number;
}

interface Props {
  light: LightRead;
  shading: number;
  lightFrom: number;
  onRead: (reading: Reading) => void;
  /** Show both interpretations lit. */
  onSee: () => void;
}

export function LightInterpretations({ light, shading, lightFrom, onRead, onSee }: Props) {
  const read = (from: number) => shading > 0 && Math.abs(lightFrom - from) < 0.5;
  return (
    <fieldset className="mt-1 flex items-center gap-1.5 text-small">
      <legend className="text-second" title={`strength ${light.strength}; 0 is even lighting`}>
        Light direction in the photo:{" "}
        <Button onClick={onSee} look="link" className="text-ink">
          Compare
        </Button>
      </legend>
      {[light.azimuth, light.azimuth + 180].map((from) => (
        <Button
          key={from}
          aria-pressed={read(from)}
          title={`Azimuth ${from}°: 0° is right, 90° is top`}
          onClick={() => onRead({ shading: light.share, light_direction: from })}
          look="toggle"
        >
          {/* Points away from the light. */}
          <ArrowDown
            className="size-3.5"
            style={{ transform: `rotate(${90 - from}deg)` }}
            aria-hidden="true"
          />
          {from}°
        </Button>
      ))}
      <Button
        aria-pressed={shading === 0}
        onClick={() => onRead({ shading: 0, light_direction: lightFrom })}
        look="toggle"
      >
        none
      </Button>
    </fieldset>
  );
}
