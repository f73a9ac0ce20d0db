// The surrounding and the lamp: the lamp stays at a surrounding's brightest place until it is moved.
import { useState } from "react";
import type { Light } from "./lamp";
import { lampAt, useSurrounding } from "./use-surrounding";

export function useLights() {
  const surrounding = useSurrounding();
  const [byHand, setByHand] = useState<Light>({ around: 128, up: 42 });
  const [follows, setFollows] = useState(true);
  const { brightest } = surrounding.chosen;
  const light = follows && brightest ? lampAt(brightest, surrounding.turn) : byHand;
  return {
    surrounding,
    light,
    turnLamp: (next: Light) => {
      setByHand(next);
      setFollows(false);
    },
    followBrightest: () => setFollows(true),
    setTurn: surrounding.setTurn,
  };
}
