// Details of the visible sets, requested together.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type SetRead, type TrayRow } from "@/api/client";

const TOGETHER = 50; // milliseconds in which requests are combined; rows that scroll by request nothing

interface Waiting {
  resolve: (set: SetRead) => void;
  reject: (error: Error) => void;
}

const waiting = new Map<string, Map<number, Waiting>>();

/** A set, requested together with others. */
export function setDetailsOf(project: string, id: number, signal?: AbortSignal): Promise<SetRead> {
  return new Promise((resolve, reject) => {
    const some = waiting.get(project) ?? new Map<number, Waiting>();
    if (!waiting.has(project)) {
      waiting.set(project, some);
      setTimeout(() => {
        waiting.delete(project);
        void ask(project, some);
      }, TOGETHER);
    }
    some.set(id, { resolve, reject });
    signal?.addEventListener("abort", () => some.delete(id));
  });
}

async function ask(project: string, some: Map<number, Waiting>) {
  const ids = [...some.keys()];
  if (ids.length === 0) return;
  try {
    const found = await answer(
      api.GET("/api/v1/projects/{project}/sets", { params: { path: { project }, query: { ids } } }),
    );
    const byId = new Map(found.map((one) => [one.id, one]));
    for (const [id, { resolve, reject }] of some) {
      const set = byId.get(id);
      if (set) resolve(set);
      else reject(new Error("this set can't be read"));
    }
  } catch (error) {
    for (const { reject } of some.values()) reject(error as Error);
  }
}

/** Details of a row; the previous ones while it changes. */
export function useSetDetails(project: string, row: TrayRow): SetRead | undefined {
  const { data } = useQuery({
    queryKey: ["set-facts", row.id, row.version],
    queryFn: ({ signal }) => setDetailsOf(project, row.id, signal),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    retry: false,
  });
  return data;
}
