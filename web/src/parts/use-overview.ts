import { useQuery } from "@tanstack/react-query";
import { overview } from "../api/client";
import { useJob, useStore } from "../sync/job-context";

/**
 * What is found beyond the single circuits, asked again once every edit has landed; until then the last answer stays. ready: false while
 * something that is watched more closely is still being asked for.
 */
export function useOverview(ready = true) {
  const store = useStore();
  const { asOf, settled } = useJob();
  return useQuery({
    queryKey: ["overview", store.job, asOf],
    queryFn: () => overview(store.job),
    enabled: settled && ready,
    placeholderData: (before) => before,
    retry: false,
  });
}
