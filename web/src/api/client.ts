// The typed client of the API; every failure becomes an Error that carries the server's message.
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type SetRead = Schemas["SetRead"];
export type MapRead = Schemas["MapRead"];
export type MapKind = Schemas["MapKind"];
export type MapDefinition = MapRead["definition"];
export type SurfaceSpec = Schemas["SurfaceSpec"];
export type OperationRead = Schemas["OperationRead"];
export type ParameterRead = Schemas["ParameterRead"];
export type VocabularyRead = Schemas["VocabularyRead"];
export type KindRead = Schemas["KindRead"];
export type TargetPreset = Schemas["TargetPreset"];
export type DeliveryRead = Schemas["DeliveryRead"];
export type DryRunPartRead = Schemas["DryRunPartRead"];
export type TakenInRead = Schemas["TakenInRead"];
export type MapTakenInRead = Schemas["MapTakenInRead"];
export type HealthRead = Schemas["HealthRead"];

export class ApiError extends Error {
  constructor(
    message: string,
    readonly code: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export const api = createClient<paths>({ baseUrl: "" });

interface Result<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

function failure(body: unknown, status: number): ApiError {
  const { code, message } = (body ?? {}) as { code?: string; message?: string };
  return new ApiError(message ?? `The server answered ${status}.`, code ?? "unknown", status);
}

/** The answer of a call, or its error thrown with the server's own words. */
export async function answer<T>(call: Promise<Result<T>>): Promise<T> {
  const { data, error, response } = await call;
  if (!response.ok || data === undefined) throw failure(error, response.status);
  return data;
}

/** Send a file as a raw body, so that the browser streams it from the disk. */
async function send<T>(address: string, file: File): Promise<T> {
  const response = await fetch(`${address}?name=${encodeURIComponent(file.name)}`, {
    method: "POST",
    body: file,
    headers: { "Content-Type": "application/octet-stream" },
  });
  const body: unknown = await response.json().catch(() => null);
  if (!response.ok) throw failure(body, response.status);
  return body as T;
}

/** Take in a picture; a set is made of it. */
export function takeIn(project: string, file: File): Promise<TakenInRead> {
  return send(`/api/projects/${project}/sources`, file);
}

/** Take in a picture to be one map of a set that is there. */
export function takeInMap(kind: MapKind, file: File): Promise<MapTakenInRead> {
  return send(`/api/maps/${kind}/sources`, file);
}
