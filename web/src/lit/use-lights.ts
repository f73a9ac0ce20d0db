// Environment and light: the light follows the environment's brightest point until it is moved.
import { useState } from "react";
import type { Light } from "./light-dial";
import { lightAt, useEnvironment } from "./use-environment";

export function useLights() {
  const environment = useEnvironment();
  const [byHand, setByHand] = useState<Light>({ azimuth: 128, elevation: 42 });
  const [follows, setFollows] = useState(true);
  const { brightest } = environment.chosen;
  const light = follows && brightest ? lightAt(brightest, environment.turn) : byHand;
  return {
    environment,
    light,
    turnLamp: (next: Light) => {
      setByHand(next);
      setFollows(false);
    },
    followBrightest: () => setFollows(true),
    setTurn: environment.setTurn,
  };
}
