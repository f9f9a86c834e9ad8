import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * Ask for what was changed just now. A first look that is still under way may have been answered from before the change, and would be taken for
 * fresh: it is given up.
 */
export async function askAnew(client: QueryClient, queryKey: QueryKey, throwOnError = false): Promise<void> {
  await client.cancelQueries({ queryKey });
  await client.invalidateQueries({ queryKey }, { throwOnError });
}
