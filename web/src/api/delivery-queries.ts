// Query factories of deliveries: progress, written files, differences between two deliveries.
import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";
import { answer, api, type DeliveryRead, type Schemas } from "./client";
import { BUSY_EVERY } from "./pace";

export function isUnderWay(delivery: DeliveryRead): boolean {
  return delivery.state === "queued" || delivery.state === "running";
}

const DELIVERIES = 50; // a page

export const deliveryQueries = {
  /** Models of the project for which a delivery has glTF textures. */
  texturedModels: (id: number) =>
    queryOptions({
      queryKey: ["dressed-models", id],
      queryFn: () =>
        answer(
          api.GET("/api/v1/deliveries/{delivery_id}/models", {
            params: { path: { delivery_id: id } },
          }),
        ),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  /** Sets and targets that are delivered automatically after a change. */
  autoDeliverRules: (project: string) =>
    queryOptions({
      queryKey: ["kept-up", project],
      queryFn: () =>
        answer(
          api.GET("/api/v1/projects/{project}/auto-deliver", { params: { path: { project } } }),
        ),
    }),
  /** Preview of a delivery of sets and targets. */
  /** `standing`: current delivery states; when they change, the preview is refetched. */
  deliveryPreview: (project: string, cells: Schemas["CellChoice"][], standing: string) =>
    queryOptions({
      queryKey: ["dry-run", project, cells, standing],
      queryFn: () =>
        answer(
          api.POST("/api/v1/projects/{project}/delivery-previews", {
            params: { path: { project } },
            body: { set_ids: [], target_ids: [], cells, delete_obsolete: false, rewrite: false },
          }),
        ),
      enabled: cells.length > 0,
      retry: false,
      staleTime: 0,
      gcTime: 10_000,
    }),
  /** Differences to a later delivery. */
  compared: (earlier: number, later: number) =>
    queryOptions({
      queryKey: ["compared", earlier, later],
      queryFn: () =>
        answer(
          api.GET("/api/v1/deliveries/{delivery_id}/comparisons/{other_id}", {
            params: { path: { delivery_id: earlier, other_id: later } },
          }),
        ),
    }),
  comparedChannel: (of: {
    earlier: number;
    n: number;
    later: number;
    otherN: number;
    file: string;
    letter: string;
  }) =>
    queryOptions({
      queryKey: ["compared-channel", of],
      queryFn: () =>
        answer(
          api.GET(
            "/api/v1/deliveries/{delivery_id}/parts/{n}/comparisons/{other_id}/{other_n}/files/{name}/channels/{letter}",
            {
              params: {
                path: {
                  delivery_id: of.earlier,
                  n: of.n,
                  other_id: of.later,
                  other_n: of.otherN,
                  name: of.file,
                  letter: of.letter,
                },
              },
            },
          ),
        ),
      staleTime: Number.POSITIVE_INFINITY,
    }),
  /** Deliveries, newest first, page by page. */
  deliveries: (project: string) =>
    infiniteQueryOptions({
      queryKey: ["deliveries", project],
      queryFn: ({ pageParam }) =>
        answer(
          api.GET("/api/v1/projects/{project}/deliveries", {
            params: {
              path: { project },
              query: { limit: DELIVERIES, ...(pageParam ? { before: pageParam } : {}) },
            },
          }),
        ),
      initialPageParam: 0,
      getNextPageParam: (last) => (last.length === DELIVERIES ? last.at(-1)?.id : undefined),
      select: (data) => data.pages.flat(),
    }),
  /** A channel of a delivered file compared with its source map. */
  channel: (of: { delivery: number; part: number; file: string; letter: string }) =>
    queryOptions({
      queryKey: ["channel", of],
      queryFn: () =>
        answer(
          api.GET("/api/v1/deliveries/{delivery_id}/parts/{n}/files/{name}/channels/{letter}", {
            params: {
              path: { delivery_id: of.delivery, n: of.part, name: of.file, letter: of.letter },
            },
          }),
        ),
    }),
  delivery: (id: number) =>
    queryOptions({
      queryKey: ["delivery", id],
      queryFn: () =>
        answer(
          api.GET("/api/v1/deliveries/{delivery_id}", { params: { path: { delivery_id: id } } }),
        ),
      refetchInterval: ({ state: { data } }) =>
        data && isUnderWay(data) ? (data.parts.length > 100 ? 5 : 1) * BUSY_EVERY : false,
    }),
  /** Files of a part and its verification. */
  deliveredPart: (id: number, n: number) =>
    queryOptions({
      queryKey: ["delivery", id, n],
      queryFn: () =>
        answer(
          api.GET("/api/v1/deliveries/{delivery_id}/parts/{n}", {
            params: { path: { delivery_id: id, n } },
          }),
        ),
      staleTime: 0,
    }),
};
