// What can be chosen for the light: names only, so that who offers them loads no renderer.

export const shapes = [
  { value: "sphere", label: "Sphere" },
  { value: "plane", label: "Plane" },
  { value: "cube", label: "Cube" },
  { value: "cylinder", label: "Cylinder" },
  { value: "drape", label: "Drape" },
] as const;

export type Shape = (typeof shapes)[number]["value"];
/** What a material stands on: a shape of ours, or the user's model. */
export type Standing = Shape | "model";

export const surroundings = [
  { value: "soft", label: "Overcast yard", sky: 1.0, lamp: 1.1 },
  { value: "hard", label: "Court at noon", sky: 0.5, lamp: 3.2 },
  { value: "dark", label: "Room at night", sky: 0.8, lamp: 2.2 },
] as const;

export type Surrounding = (typeof surroundings)[number]["value"];

export function surroundingOf(value: Surrounding) {
  return surroundings.find((one) => one.value === value) ?? surroundings[0];
}
