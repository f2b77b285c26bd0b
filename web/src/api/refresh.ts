import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * Looks again at what changed. An invalidation joins a first fetch that is under way instead of starting another, and
 * that one may have been answered before the change: then it is looked at once more.
 */
export async function refresh(client: QueryClient, queryKey: QueryKey, refetchType?: "active"): Promise<void> {
  const joined = client
    .getQueryCache()
    .findAll({ queryKey })
    .some((query) => query.state.fetchStatus !== "idle" && query.state.data === undefined);
  await client.invalidateQueries({ queryKey, refetchType });
  if (joined) {
    await client.invalidateQueries({ queryKey, refetchType });
  }
}
