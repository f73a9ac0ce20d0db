// Typed client of the API; failed calls throw an Error with the server's message.
import createClient from "openapi-fetch";
import type { MeshData } from "@/lit/drawing/messages";
import type { Failure } from "@/parts/save-queue";
import { useAway } from "./away";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type ModelRead = Schemas["ModelRead"];
export type ModelLink = Schemas["ModelLink"];
export type EnvironmentRead = Schemas["EnvironmentRead"];
export type MeshRead = Schemas["MeshRead"];
export type UvRead = Schemas["UvRead"];
export type SetRead = Schemas["SetRead"];
export type TrayRow = Schemas["TrayRowRead"];
export type BoardCellRead = Schemas["BoardCellRead"];
export type DiskStateRead = Schemas["DiskStateRead"];
export type StaleFilesRead = Schemas["StaleFilesRead"];
export type DeliveredPartRead = Schemas["DeliveredPartRead"];
export type DestinationRead = Schemas["DestinationRead"];
export type DestinationWrite = Schemas["DestinationWrite"];
export type FolderRead = Schemas["FolderRead"];
export type AutoDeliverRead = Schemas["AutoDeliverRead"];
export type WebhookRead = Schemas["WebhookRead"];
export type WebhookCallRead = Schemas["WebhookCallRead"];
export type DeliveryPreviewRead = Schemas["DeliveryPreviewRead"];
export type FindingRead = Schemas["FindingRead"];
export type ChecklistRead = Schemas["ChecklistRead"];
export type WatchedFolderRead = Schemas["WatchedFolderRead"];
export type ProgressRead = Schemas["ProgressRead"];
export type TrayRead = Schemas["TrayRead"];
export type ProjectRead = Schemas["ProjectRead"];
export type Change = Schemas["ChangeRequest"]["change"];
export type ChangedRead = Schemas["ChangedRead"];
export type MapRead = Schemas["MapRead"];
export type MapKind = Schemas["MapKind"];
type NamedMask = `mask_${string}`;
/** One value for each of some map types. */
export type ByKind<T> = { [kind in Exclude<MapKind, NamedMask>]?: T } & Record<NamedMask, T>;
export type MapDefinition = MapRead["definition"];
export type SurfaceSpec = Schemas["SurfaceSpec"];
export type TilingRead = Schemas["TilingRead"];
export type LightRead = Schemas["LightRead"];
export type OperationRead = Schemas["OperationRead"];
export type ParameterRead = Schemas["ParameterRead"];
export type VocabularyRead = Schemas["VocabularyRead"];
export type KindRead = Schemas["KindRead"];
export type TargetPreset = Schemas["TargetPreset"];
export type TargetRead = Schemas["TargetRead"];
export type DeliveryRead = Schemas["DeliveryRead"];
export type DryRunPartRead = Schemas["DryRunPartRead"];
export type ImportedSourceRead = Schemas["ImportedSourceRead"];
export type ImportedMapRead = Schemas["ImportedMapRead"];
export type HealthRead = Schemas["HealthRead"];
export type SlotRead = Schemas["SlotRead"];
export type RecipeRead = Schemas["RecipeRead"];
export type AppliedRead = Schemas["AppliedRead"];
export type Imported = Schemas["Imported"];
export type ArrivalRead = Schemas["ArrivalRead"];
export type CardOffer = Schemas["CardOffer"];
export type AssignmentChange = Partial<Schemas["AssignmentChange"]>;
export type AddedRead = Schemas["AddedRead"];
export type PreviewCreate = Schemas["PreviewCreate"];
export type Preparation = Schemas["Preparation"];
export type CapturesSpec = Schemas["CapturesSpec"];
export type CaptureSpec = CapturesSpec["captures"][number];
export type SurfaceOffer = Schemas["SurfaceRead"];
export type GuideRead = Schemas["GuideRead"];
export type InterpretationRead = Schemas["InterpretationRead"];
export type SeamMethodsRead = Schemas["SeamMethodsRead"];

export class ApiError extends Error {
  constructor(
    message: string,
    readonly code: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** The server or its database can't be reached at the moment; a retry can succeed. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof ApiError)) return error instanceof TypeError; // what fetch throws
  return error.status === 503 || error.status === 502 || error.status === 0;
}

/** Classify the error of a save; see `SaveQueue`. */
export function failureOf(error: unknown): Failure {
  const why = error instanceof Error ? error.message : "The change couldn't be saved.";
  if (isAway(error)) return { kind: "away", why: error instanceof ApiError ? why : UNREACHABLE };
  const status = error instanceof ApiError ? error.status : 0;
  // Server errors and a full disk may be temporary; the user can't correct them.
  if (status >= 500 || status === 408) return { kind: "away", why };
  return { kind: status === 409 ? "conflict" : "refused", why };
}

const UNREACHABLE = "The server is unreachable.";

/** Send a request; report an unreachable server, and reload the page to sign in if required. */
async function watched(request: Request): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(request);
  } catch (error) {
    if (!request.signal.aborted) useAway.getState().noticed(UNREACHABLE);
    throw request.signal.aborted ? error : new ApiError(UNREACHABLE, "unreachable", 0);
  }
  if (response.status === 503) {
    const { detail } = (await response
      .clone()
      .json()
      .catch(() => ({}))) as { detail?: string };
    useAway.getState().noticed(detail ?? "The server is busy.");
  }
  if (response.status === 401) location.reload(); // the sign-in page follows
  return response;
}

export const api = createClient<paths>({ baseUrl: "", fetch: watched });

interface Result<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

function failure(body: unknown, status: number): ApiError {
  const { type, detail } = (body ?? {}) as { type?: string; detail?: string };
  return new ApiError(
    detail ?? `The server returned status ${status}.`,
    type?.replace("/problems/", "") ?? "unknown",
    status,
  );
}

/** Return the response of a call, or throw its error with the server's message. */
export async function answer<T>(call: Promise<Result<T>>): Promise<T> {
  const { data, error, response } = await call;
  if (!response.ok || data === undefined) throw failure(error, response.status);
  return data;
}

/** Wait for a call without a response body, or throw its error with the server's message. */
export async function done(call: Promise<Result<unknown>>): Promise<void> {
  const { error, response } = await call;
  if (!response.ok) throw failure(error, response.status);
}

/** Send a file as a raw body, so that the browser streams it from the disk. */
async function send<T>(address: string, file: File, more: Record<string, string> = {}): Promise<T> {
  const query = new URLSearchParams({ name: file.name, ...more });
  const response = await watched(
    new Request(`${address}?${query}`, {
      method: "POST",
      body: file,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
  const body: unknown = await response.json().catch(() => null);
  if (!response.ok) throw failure(body, response.status);
  return body as T;
}

/** Import a picture and create a set from it. Without a kind, detect it from the file name. */
export function importPicture(
  project: string,
  file: File,
  kind?: MapKind,
): Promise<ImportedSourceRead> {
  return send(`/api/v1/projects/${project}/sources`, file, kind ? { kind } : {});
}

/** Import a picture as one map of an existing set. */
export function importMap(kind: MapKind, file: File): Promise<ImportedMapRead> {
  return send(`/api/v1/maps/${kind}/sources`, file);
}

/** Send a file, or an archive of some, to Intake; files of one drop share the batch. */
export function addArrival(
  project: string,
  file: File,
  path: string,
  batch: string,
): Promise<AddedRead> {
  return send(`/api/v1/projects/${project}/arrivals`, file, { name: path, batch });
}

/** Preview of a set, or of a draft of it, under light: a data URL. */
export async function litChange(
  setId: number,
  change: Change | null,
  signal: AbortSignal,
): Promise<string> {
  const response = await watched(
    new Request(`/api/v1/sets/${setId}/change-previews`, {
      method: "POST",
      body: JSON.stringify({ change }),
      headers: { "Content-Type": "application/json" },
      signal,
    }),
  );
  if (!response.ok) throw failure(await response.json().catch(() => null), response.status);
  const picture = await response.blob();
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result));
    reader.onerror = () => reject(reader.error);
    reader.readAsDataURL(picture);
  });
}

/**
 * Parse a response of a JSON text followed by binary values: text, all bytes, offset of the values.
 */
async function unframed<T>(
  response: Response,
): Promise<{ head: T; data: ArrayBuffer; at: number }> {
  if (!response.ok) throw failure(await response.json().catch(() => null), response.status);
  const data = await response.arrayBuffer();
  const length = new DataView(data).getUint32(0, true);
  const text = new TextDecoder().decode(new Uint8Array(data, 4, length));
  return { head: JSON.parse(text) as T, data, at: 4 + length };
}

export type TexelsRead = Schemas["TexelsRead"];

/** An excerpt of a channel: its description, and the values of each state in row order. */
export interface Texels extends TexelsRead {
  values: Record<string, Float32Array>;
}

/** Fetch an excerpt of a channel from an address that ends in /texels. */
export async function texels(
  address: string,
  piece: { left: number; upper: number; columns: number; rows: number },
  signal: AbortSignal,
): Promise<Texels> {
  const query = new URLSearchParams(Object.entries(piece).map(([k, v]) => [k, String(v)]));
  const response = await watched(new Request(`${address}/texels?${query}`, { signal }));
  const { head, data, at } = await unframed<TexelsRead>(response);
  const count = head.columns * head.rows;
  // The offset of the values isn't necessarily a multiple of their size, as typed arrays require.
  const all = new Float32Array(data.slice(at));
  const values = Object.fromEntries(
    head.planes.map((name, n) => [name, all.subarray(n * count, (n + 1) * count)]),
  );
  return { ...head, values };
}

/** Import a model, or an archive with a model and its files, as a job. */
export function importModel(project: string, file: File): Promise<Schemas["JobRead"]> {
  return send(`/api/v1/projects/${project}/models`, file);
}

/** Import a panorama, or the photo of a mirror ball cropped to it, as a job. */
export function importEnvironment(
  project: string,
  file: File,
  kind: EnvironmentRead["kind"],
): Promise<Schemas["JobRead"]> {
  return send(`/api/v1/projects/${project}/environments`, file, { kind });
}

/**
 * Fetch a model prepared for display with one of its UV sets. `prepared` waits for the job that a
 * large model needs first.
 */
export async function modelMesh(
  modelId: number,
  uvSet: number,
  prepared: (job: Schemas["JobRead"]) => Promise<unknown>,
): Promise<MeshData> {
  const address = `/api/v1/models/${modelId}/mesh?uv_set=${uvSet}`;
  let response = await watched(new Request(address));
  while (response.status === 202) {
    await prepared((await response.json()) as Schemas["JobRead"]);
    response = await watched(new Request(address));
  }
  const { head, data, at } = await unframed<MeshRead>(response);
  const values = data.slice(at); // typed arrays start at multiples of four
  let next = 0;
  const floats = (count: number) => {
    const found = new Float32Array(values, next, count);
    next += count * 4;
    return found;
  };
  return {
    key: `${modelId} ${uvSet}`,
    head,
    positions: floats(head.corners * 3),
    normals: floats(head.corners * 3),
    uvs: floats(head.corners * 2),
    tangents: floats(head.corners * 4),
    borders: floats(head.borders * 4),
    corners: new Uint32Array(values, next, head.triangles * 3),
  };
}

/** Import a project file as a job. */
export function importProject(file: File): Promise<Schemas["JobRead"]> {
  return send("/api/v1/project-archives", file);
}

export interface PreviewedMap {
  key: string;
  width: number;
  height: number;
  channels: number;
  /** 8-bit codes, row 0 at the top; null if the client already has them. */
  codes: Uint8Array | null;
}

/** Result of the preparation: size, surface, and the reference picture. */
export type PreparedFacts = Omit<Schemas["PreviewRead"], "maps">;

export interface Previewed {
  maps: ByKind<PreviewedMap>;
  facts: PreparedFacts;
}

/** Previews of maps of a set or a draft as display codes; see the API's description. */
export async function preview(
  setId: number,
  body: Partial<PreviewCreate>,
  signal?: AbortSignal,
): Promise<Previewed> {
  const response = await watched(
    new Request(`/api/v1/sets/${setId}/previews`, {
      method: "POST",
      body: JSON.stringify(body),
      headers: { "Content-Type": "application/json" },
      signal: signal ?? null,
    }),
  );
  const { head, data, at: begin } = await unframed<Schemas["PreviewRead"]>(response);
  const { maps, ...facts } = head;
  const found: Previewed["maps"] = {};
  let at = begin;
  for (const [kind, one] of Object.entries(maps)) {
    const { key, width, height, channels, bytes } = one;
    const codes = bytes > 0 ? new Uint8Array(data, at, bytes) : null;
    found[kind as MapKind] = { key, width, height, channels, codes };
    at += bytes;
  }
  return { maps: found, facts };
}
