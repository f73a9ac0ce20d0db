// Suggested capture group: pictures of one surface that can become a measured set.
import { useState } from "react";
import type { SurfaceOffer as Offered } from "@/api/client";
import { Button } from "@/parts/button";
import { LightDome } from "@/parts/light-dome";
import { allRemarks } from "@/parts/lights";

interface Props {
  offer: Offered;
  onTake: (name: string) => void;
  onRefuse: () => void;
  busy: boolean;
}

export function SurfaceOffer({ offer, onTake, onRefuse, busy }: Props) {
  const [name, setName] = useState(offer.name);
  const { captures, error } = offer;
  return (
    <section
      aria-label={`${offer.ids.length} pictures of one surface, ${offer.name}`}
      className="mb-3 flex items-center gap-5 rounded-md border border-copper bg-copper-pale px-4 py-3"
    >
      {captures ? (
        <LightDome captures={captures.captures} size={132} />
      ) : (
        <Pile thumbnails={offer.thumbnails} />
      )}
      <div className="min-w-0 grow">
        <h2 className="text-list font-semibold">{offer.ids.length} pictures of one surface</h2>
        {!captures && !error && (
          <p aria-live="polite">Estimating alignment and light directions…</p>
        )}
        {error && <p className="text-wrong">{error}</p>}
        {captures && <Found offer={offer} />}
        <p className="mt-1 max-w-160 text-small text-second">
          Combined into one set, they give measured normals, base color and roughness instead of
          estimated ones. You can adjust the lights on the Bench.
        </p>
      </div>
      <div className="flex shrink-0 flex-col items-stretch gap-2">
        {captures && (
          <>
            <input
              aria-label="Name of the set"
              className="h-control rounded-sm border border-rule bg-card px-2"
              value={name}
              maxLength={100}
              onChange={(event) => setName(event.target.value)}
            />
            <Button
              look="main"
              className="justify-center"
              disabled={busy || !name.trim()}
              onClick={() => onTake(name.trim())}
            >
              Measure as one set
            </Button>
          </>
        )}
        <Button className="justify-center" onClick={onRefuse}>
          Import as separate files
        </Button>
      </div>
    </section>
  );
}

/** Result of the analysis: the light probe sphere, source of the lights, remarks. */
function Found({ offer }: { offer: Offered }) {
  const { captures } = offer;
  if (!captures) return null;
  const out = captures.captures.filter((one) => !one.used).length;
  const origin = captures.captures[0]?.light_origin;
  const { ball } = captures;
  return (
    <div className="mt-1 flex items-start gap-3">
      {ball && (
        <span className="relative block w-24 shrink-0 overflow-hidden rounded-sm">
          <img src={offer.thumbnails[0]} alt="" className="block w-full" />
          <svg
            viewBox={`0 0 1 ${offer.height / offer.width}`}
            className="absolute inset-0 size-full"
            role="img"
            aria-label="Detected ball"
          >
            <circle
              cx={ball.x}
              cy={ball.y}
              r={ball.radius}
              className="fill-none stroke-copper"
              strokeWidth={0.02}
            />
          </svg>
        </span>
      )}
      <ul className="leading-snug">
        <li>
          {origin === "ball" && ball
            ? `✓ ${ball.kind === "shiny" ? "mirror" : "white"} ball detected: its highlights give the light directions`
            : "△ no ball detected: light directions are estimated from the pictures"}
        </li>
        {out > 0 && <li>{`△ ${out} excluded`}</li>}
        {allRemarks(captures)
          .slice(0, 4)
          .map((one) => (
            <li key={one} className="text-small text-second">
              {one}
            </li>
          ))}
      </ul>
    </div>
  );
}

/** The pictures before their lights are estimated. */
function Pile({ thumbnails }: { thumbnails: string[] }) {
  return (
    <div className="grid w-33 shrink-0 grid-cols-4 gap-1">
      {thumbnails.slice(0, 12).map((one) => (
        <img key={one} src={one} alt="" className="aspect-square rounded-sm object-cover" />
      ))}
    </div>
  );
}
