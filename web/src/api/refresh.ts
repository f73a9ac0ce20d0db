import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * Refetch everything under these keys after a change. A response that is still on its way may be
 * older than the change, and invalidation alone would accept it as current, so it is cancelled
 * first.
 */
export async function refresh(client: QueryClient, ...keys: QueryKey[]): Promise<void> {
  await Promise.all(
    keys.map(async (queryKey) => {
      await client.cancelQueries({ queryKey });
      await client.invalidateQueries({ queryKey });
    }),
  );
}
