// Choices of the lit view, in a module without the renderer so that menus load fast.

export const shapes = [
  { value: "sphere", label: "Sphere" },
  { value: "plane", label: "Plane" },
  { value: "cube", label: "Cube" },
  { value: "cylinder", label: "Cylinder" },
  { value: "drape", label: "Cloth" },
] as const;

export type Shape = (typeof shapes)[number]["value"];
/** Preview geometry: a built-in shape, or the user's model. */
export type Standing = Shape | "model";

export const environments = [
  { value: "soft", label: "Overcast yard", sky: 1.0, lamp: 1.1 },
  { value: "hard", label: "Court at noon", sky: 0.5, lamp: 3.2 },
  { value: "dark", label: "Room at night", sky: 0.8, lamp: 2.2 },
] as const;

/** A selectable environment: built-in, or imported into the project. */
export interface EnvironmentSettings {
  value: string;
  label: string;
  /** URL of the panorama. */
  address: string;
  /** Intensity factors of the environment and the light. */
  sky: number;
  lamp: number;
  /** Direction of its brightest point if known: x, y (up), z. */
  brightest: [number, number, number] | null;
  /** Dark environment: the background is dark gray. */
  dim: boolean;
}

export const ours: EnvironmentSettings[] = environments.map((one) => ({
  ...one,
  address: `/environments/${one.value}.hdr`,
  brightest: null,
  dim: one.value === "dark",
}));

/** An environment with rotation and exposure. */
export interface EnvironmentView {
  address: string;
  sky: number;
  lamp: number;
  dim: boolean;
  /** Rotation around the vertical axis in degrees. */
  turn: number;
  /** Stops. */
  exposure: number;
  backdrop: Backdrop;
  /** The light casts shadows. */
  shadows: boolean;
}

/** Neutral gray, or the blurred environment. */
export type Backdrop = "grey" | "seen";

export function defaultView(one: EnvironmentSettings): EnvironmentView {
  return {
    address: one.address,
    sky: one.sky,
    lamp: one.lamp,
    dim: one.dim,
    turn: 0,
    exposure: 0,
    backdrop: "grey",
    shadows: true,
  };
}
