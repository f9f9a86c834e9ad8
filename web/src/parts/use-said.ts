import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { said } from "../api/client";
import type { Change, LineSaid } from "../api/types";
import { useJob, useStore } from "../sync/job-context";

/** Typing is not asked about letter by letter. */
const PAUSE_MS = 120;

export function useSettled<T>(value: T, pause = PAUSE_MS): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pause);
    return () => clearTimeout(timer);
  }, [value, pause]);
  return settled;
}

/** What lines say, as the server reads them; `fresh` is false while what is shown is the answer to an earlier text. */
export function useSaid(text: string, board: string | null, wanted = true) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const still = useSettled(text);
  const found = useQuery({
    queryKey: ["said", store.job, asOf, board, still],
    queryFn: () => said(store.job, still, board),
    enabled: wanted && still.trim() !== "" && settled,
    placeholderData: (before) => before,
    retry: false,
  });
  const lines = still.trim() === "" ? [] : (found.data ?? []);
  return { lines, fresh: still === text && !found.isPlaceholderData && found.data !== undefined, error: found.error };
}

/** The changes of every line that can be taken. */
export const changesOf = (lines: readonly LineSaid[]) => lines.flatMap((line) => line.changes as unknown as Change[]);
