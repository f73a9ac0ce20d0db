// Query factories: all query keys and refetch intervals.
import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import {
  answer,
  api,
  type Change,
  type MapKind,
  modelMesh,
  type Schemas,
  type TargetPreset,
} from "./client";
import { deliveryQueries } from "./delivery-queries";
import { resultOf } from "./jobs";
import { BUSY_EVERY, CALM_EVERY, SOON_EVERY } from "./pace";

export { isUnderWay } from "./delivery-queries";

export const queries = {
  health: () =>
    queryOptions({
      queryKey: ["health"],
      queryFn: () => answer(api.GET("/api/v1/health")),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  projects: (deleted = false) =>
    queryOptions({
      queryKey: deleted ? ["projects", "deleted"] : ["projects"],
      queryFn: () => answer(api.GET("/api/v1/projects", { params: { query: { deleted } } })),
    }),
  diskUse: (project: string) =>
    queryOptions({
      queryKey: ["disk-use", project],
      queryFn: () =>
        answer(api.GET("/api/v1/projects/{project}/disk-use", { params: { path: { project } } })),
    }),
  vocabulary: () =>
    queryOptions({
      queryKey: ["vocabulary"],
      queryFn: () => answer(api.GET("/api/v1/vocabulary")),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  targets: () =>
    queryOptions({ queryKey: ["targets"], queryFn: () => answer(api.GET("/api/v1/targets")) }),
  /** Preview of a version of a set with a preset. */
  /** `light` is the id of the environment that lights the preview; null: three lights. */
  targetPreview: (
    preset: TargetPreset,
    setId: number | null,
    version: number,
    light: number | null = null,
  ) =>
    queryOptions({
      queryKey: ["trial", preset, setId, version, light],
      queryFn: () => {
        const body = { preset, set_id: setId ?? 0, environment: light };
        return answer(api.POST("/api/v1/target-previews", { body }));
      },
      enabled: setId !== null,
    }),
  /** Summaries of all sets of a project, or of those in the trash. */
  tray: (project: string, deleted = false) =>
    queryOptions({
      queryKey: deleted ? ["tray", project, "deleted"] : ["tray", project],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/tray", {
            params: { path: { project }, query: { deleted } },
          }),
        ),
      // Checks run in the background; refetch the list when findings arrive.
      refetchInterval: ({ state: { data } }) =>
        !deleted && data?.rows.some((one) => !one.checked) === true && CALM_EVERY,
    }),
  /** Checklist findings of versions of sets; refetched until all are checked. */
  checklists: (project: string, sets: { id: number; version: number }[]) =>
    queryOptions({
      queryKey: ["checklists", project, sets.map((one) => [one.id, one.version])],
      queryFn: () =>
        answer(
          api.POST("/api/v1/projects/{project}/checklists", {
            params: { path: { project } },
            body: { set_ids: sets.map((one) => one.id) },
          }),
        ),
      enabled: sets.length > 0,
      placeholderData: keepPreviousData,
      refetchInterval: ({ state: { data } }) =>
        data?.every((one) => one.current) === false && SOON_EVERY,
    }),
  unreadable: (project: string) =>
    queryOptions({
      queryKey: ["tray", project, "unreadable"],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/unreadable-sets", { params: { path: { project } } }),
        ),
    }),
  /** Preview of a change. */
  changePreview: (project: string, setIds: number[], change: Change) =>
    queryOptions({
      queryKey: ["look", project, setIds, change],
      queryFn: () =>
        answer(
          api.POST("/api/v1/projects/{project}/changes", {
            params: { path: { project } },
            body: { set_ids: setIds, change, dry: true },
          }),
        ),
      retry: false,
      staleTime: 0,
      gcTime: 10_000,
    }),
  models: (project: string) =>
    queryOptions({
      queryKey: ["models", project],
      queryFn: () =>
        answer(api.GET("/api/v1/projects/{project}/models", { params: { path: { project } } })),
    }),
  /** Ray misses of a set's model; disabled without a draft. */
  rayMisses: (setId: number, draft: Schemas["Draft"] | null) =>
    queryOptions({
      queryKey: ["misses", setId, draft?.model],
      queryFn: () =>
        answer(
          api.POST("/api/v1/sets/{set_id}/ray-misses", {
            params: { path: { set_id: setId } },
            body: { draft },
          }),
        ),
      enabled: draft !== null,
      placeholderData: keepPreviousData,
      retry: false,
    }),
  environments: (project: string) =>
    queryOptions({
      queryKey: ["environments", project],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/environments", { params: { path: { project } } }),
        ),
    }),
  /** A model prepared for display; it never changes. */
  mesh: (modelId: number, uvSet: number) =>
    queryOptions({
      queryKey: ["mesh", modelId, uvSet],
      queryFn: () => modelMesh(modelId, uvSet, resultOf),
      retry: false,
      staleTime: Number.POSITIVE_INFINITY,
      gcTime: 60_000,
    }),
  uv: (modelId: number, material: string | null, uvSet: number) =>
    queryOptions({
      queryKey: ["uv", modelId, material, uvSet],
      queryFn: () =>
        answer(
          api.GET("/api/v1/models/{model_id}/uv", {
            params: { path: { model_id: modelId }, query: { material, uv_set: uvSet } },
          }),
        ),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  set: (id: number) =>
    queryOptions({
      queryKey: ["set", id],
      queryFn: () => answer(api.GET("/api/v1/sets/{set_id}", { params: { path: { set_id: id } } })),
    }),
  /** `follows`: refetch regularly, because watched folders can add files at any time. */
  intake: (project: string, accepted: boolean, follows = false) =>
    queryOptions({
      queryKey: ["intake", project, accepted],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/arrivals", {
            params: { path: { project }, query: { accepted } },
          }),
        ),
      // A long table is refetched less often.
      refetchInterval: ({ state: { data } }) =>
        data?.waiting || data?.looking
          ? (data.rows.length > 100 ? 5 : 2) * BUSY_EVERY
          : follows && CALM_EVERY / 2,
    }),
  cards: () =>
    queryOptions({ queryKey: ["cards"], queryFn: () => answer(api.GET("/api/v1/source-cards")) }),
  /** Lit previews of interpretations of a photo; the key is the content of the draft. */
  interpretations: (setId: number, about: "relief" | "light" | "invert", draft: Schemas["Draft"]) =>
    queryOptions({
      queryKey: ["readings", setId, about, draft],
      queryFn: () =>
        answer(
          api.POST("/api/v1/sets/{set_id}/interpretations", {
            params: { path: { set_id: setId } },
            body: { about, draft },
          }),
        ),
      retry: false,
      staleTime: Number.POSITIVE_INFINITY,
      gcTime: 60_000,
    }),
  /** Preview of the lighting removal; the key is the content of the draft. */
  removedLighting: (
    setId: number,
    by: "preparation" | "base_color",
    draft: Schemas["Draft"] | null,
  ) =>
    queryOptions({
      queryKey: ["removedLighting", setId, by, draft],
      queryFn: () =>
        answer(
          api.POST("/api/v1/sets/{set_id}/removed-lighting", {
            params: { path: { set_id: setId } },
            body: { by, draft },
          }),
        ),
      enabled: draft !== null,
      retry: false,
      placeholderData: keepPreviousData,
      gcTime: 60_000,
    }),
  /** A capture and its prediction; the previous result stays until a new one arrives. */
  captureComparison: (setId: number, source: string, draft: Schemas["Draft"] | null) =>
    queryOptions({
      queryKey: ["capture-comparison", setId, source, draft],
      queryFn: () =>
        answer(
          api.POST("/api/v1/sets/{set_id}/capture-comparisons", {
            params: { path: { set_id: setId } },
            body: { source, draft },
          }),
        ),
      enabled: draft !== null,
      retry: false,
      placeholderData: keepPreviousData,
      gcTime: 60_000,
    }),
  /** Uncertainty of a map's color key; the previous result stays until a new one arrives. */
  keyUncertainty: (setId: number, kind: MapKind, draft: Schemas["Draft"] | null) =>
    queryOptions({
      queryKey: ["key-uncertainty", setId, kind, draft],
      queryFn: () =>
        answer(
          api.POST("/api/v1/sets/{set_id}/key-uncertainties", {
            params: { path: { set_id: setId } },
            body: { kind, draft },
          }),
        ),
      enabled: draft !== null,
      retry: false,
      placeholderData: keepPreviousData,
    }),
  /** Measurements of the seam methods; the key is the content of the draft's preparation. */
  seamMethods: (setId: number, draft: Schemas["Draft"] | null) =>
    queryOptions({
      queryKey: ["seam-ways", setId, draft],
      queryFn: () =>
        answer(
          api.POST("/api/v1/sets/{set_id}/seam-measures", {
            params: { path: { set_id: setId } },
            body: { draft },
          }),
        ),
      enabled: draft !== null,
      staleTime: Number.POSITIVE_INFINITY,
    }),
  recipes: () =>
    queryOptions({ queryKey: ["recipes"], queryFn: () => answer(api.GET("/api/v1/recipes")) }),
  source: (sha256: string) =>
    queryOptions({
      queryKey: ["source", sha256],
      queryFn: () => answer(api.GET("/api/v1/sources/{sha256}", { params: { path: { sha256 } } })),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  /** Delivery state of each set for each target. */
  board: (project: string) =>
    queryOptions({
      queryKey: ["board", project],
      queryFn: () =>
        answer(api.GET("/api/v1/projects/{project}/board", { params: { path: { project } } })),
      refetchInterval: ({ state: { data } }) =>
        data?.some((cell) => cell.state === "running" || cell.state === "waiting")
          ? 2 * BUSY_EVERY
          : 2 * CALM_EVERY,
    }),
  /**
   * Sets and targets whose delivered files were changed. `underWay`: number of running ones; a
   * change of it refetches the states.
   */
  diskStates: (project: string, ids: number[], underWay: number) =>
    queryOptions({
      queryKey: ["board", project, "lying", ids, underWay],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/board/disk-states", {
            params: { path: { project }, query: { ids } },
          }),
        ),
      enabled: ids.length > 0,
      refetchInterval: 2 * CALM_EVERY,
    }),
  /** Number of files of stale deliveries that would change. */
  staleFiles: (project: string, ids: number[]) =>
    queryOptions({
      queryKey: ["board", project, "stale", ids],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/board/stale", {
            params: { path: { project }, query: { ids } },
          }),
        ),
      enabled: ids.length > 0,
      refetchInterval: 2 * CALM_EVERY,
    }),
  /** Webhooks of a project. */
  webhooks: (project: string) =>
    queryOptions({
      queryKey: ["webhooks", project],
      queryFn: () =>
        answer(api.GET("/api/v1/projects/{project}/webhooks", { params: { path: { project } } })),
      refetchInterval: CALM_EVERY,
    }),
  /** Calls of a webhook, newest first. */
  webhookCalls: (webhook_id: number) =>
    infiniteQueryOptions({
      queryKey: ["webhooks", "calls", webhook_id],
      queryFn: ({ pageParam }) =>
        answer(
          api.GET("/api/v1/webhooks/{webhook_id}/calls", {
            params: { path: { webhook_id }, query: pageParam ? { before: pageParam } : {} },
          }),
        ),
      initialPageParam: 0,
      getNextPageParam: (last) => (last.length === 50 ? last.at(-1)?.id : undefined),
      refetchInterval: CALM_EVERY,
    }),
  /** Destinations of a project's deliveries for every target. */
  destinations: (project: string) =>
    queryOptions({
      queryKey: ["destinations", project],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/destinations", { params: { path: { project } } }),
        ),
    }),
  /** Check of a destination, and the resulting paths. */
  destinationPreview: (
    project: string,
    target: string,
    wanted: Schemas["DestinationWrite"],
    example: string,
  ) =>
    queryOptions({
      queryKey: ["destination-look", project, target, wanted, example],
      queryFn: () =>
        answer(
          api.PUT("/api/v1/projects/{project}/destinations/{target_id}", {
            params: { path: { project, target_id: target }, query: { example } },
            body: { ...wanted, dry: true },
          }),
        ),
      retry: false,
      gcTime: 10_000,
    }),
  /** Subfolders of a folder on the server; of the default folder without a path. */
  folder: (path: string | null) =>
    queryOptions({
      queryKey: ["folder", path],
      queryFn: () =>
        answer(api.GET("/api/v1/folders", { params: { query: path ? { path } : {} } })),
      retry: false,
    }),
  /** URLs that deliveries may be copied to. */
  copyDestinations: () =>
    queryOptions({
      queryKey: ["copies"],
      queryFn: () => answer(api.GET("/api/v1/folders/copy-destinations")),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  /** Folders on the server that a project imports from. */
  watchedFolders: (project: string) =>
    queryOptions({
      queryKey: ["followed", project],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/watched-folders", { params: { path: { project } } }),
        ),
      refetchInterval: ({ state: { data } }) =>
        data?.some((one) => one.read_at === null) === true ? SOON_EVERY : CALM_EVERY,
    }),
  folderRoots: () =>
    queryOptions({
      queryKey: ["folder-roots"],
      queryFn: () => answer(api.GET("/api/v1/folders/roots")),
    }),
  ...deliveryQueries,
};
