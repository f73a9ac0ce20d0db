// Environment of a preview, with rotation and exposure.
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { withoutEnding } from "@/parts/format";
import {
  type Backdrop,
  defaultView,
  type EnvironmentSettings,
  type EnvironmentView,
  ours,
} from "./choices";
import type { Light } from "./light-dial";

/** Mean radiance of the built-in environments, to which imported ones are normalized. */
const MEAN = 0.5;

export type EnvironmentState = ReturnType<typeof useEnvironment>;

export function useEnvironment() {
  const project = useProject();
  const { data: own } = useQuery(queries.environments(project));
  const [value, setValue] = useState("soft");
  const [turn, setTurn] = useState(0);
  const [exposure, setExposure] = useState(0);
  const [backdrop, setBackdrop] = useState<Backdrop>("grey");
  const [shadows, setShadows] = useState(true);
  const [besideValue, setBeside] = useState<string | null>(null);
  const all = useMemo<EnvironmentSettings[]>(
    () => [
      ...ours,
      ...(own ?? []).map((one) => ({
        value: `own-${one.id}`,
        label: withoutEnding(one.name),
        address: one.light,
        sky: MEAN / Math.max(one.mean, 1e-6),
        lamp: 1,
        dim: false,
        brightest: one.lamp as [number, number, number],
      })),
    ],
    [own],
  );
  const chosen = (all.find((one) => one.value === value) ?? ours[0]) as EnvironmentSettings;
  const view = useMemo<EnvironmentView>(
    () => ({ ...defaultView(chosen), turn, exposure, backdrop, shadows }),
    [chosen, turn, exposure, backdrop, shadows],
  );
  const other = all.find((one) => one.value === besideValue && one !== chosen);
  const beside = useMemo(
    () =>
      other
        ? { ...other, view: { ...defaultView(other), turn, exposure, backdrop, shadows } }
        : null,
    [other, turn, exposure, backdrop, shadows],
  );
  return {
    ...{ project, all, chosen, view, beside, setBeside },
    ...{ turn, setTurn, exposure, setExposure, backdrop, setBackdrop, shadows, setShadows },
    choose: setValue,
  };
}

/** Light direction for the brightest point of a rotated environment. */
export function lightAt([x, y, z]: [number, number, number], turn: number): Light {
  const angle = (turn * Math.PI) / 180;
  const right = Math.cos(angle) * x + Math.sin(angle) * z;
  const near = -Math.sin(angle) * x + Math.cos(angle) * z;
  const around = Math.round((Math.atan2(y, right) * 180) / Math.PI);
  const up = Math.round((Math.asin(Math.min(1, Math.max(-1, near))) * 180) / Math.PI);
  return { azimuth: (around + 360) % 360, elevation: Math.max(4, up) };
}
