import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * Ask the server again for everything under these keys, after a change.
 *
 * A first answer that is still on its way may have been read before the change, and invalidating
 * alone would take it for the new one: it is let go of first.
 */
export async function refresh(client: QueryClient, ...keys: QueryKey[]): Promise<void> {
  await Promise.all(
    keys.map(async (queryKey) => {
      await client.cancelQueries({ queryKey });
      await client.invalidateQueries({ queryKey });
    }),
  );
}
