import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { isCutShort, type Searching, type Watch } from "../api/client";

interface Asking {
  enabled: boolean;
  /** Whether what was found for an earlier version stays until there is something newer. */
  keep?: boolean;
}

/**
 * Ask for a search. A long one is worked on apart from the page, which asks how far it is; once the page no longer
 * wants to know, it is given up.
 */
export function useSearch<T>(key: readonly unknown[], ask: (watch: Watch) => Promise<T>, { enabled, keep }: Asking) {
  const [progress, setProgress] = useState<Searching | null>(null);
  const found = useQuery<T>({
    queryKey: key,
    queryFn: async ({ signal }) => {
      setProgress(null);
      return ask({ signal, told: setProgress });
    },
    enabled,
    retry: false,
    ...(keep ? { placeholderData: (before: T | undefined) => before as never } : {}),
  });
  return { ...found, progress: found.isFetching ? progress : null };
}

interface ProgressProps {
  say: string;
  progress: Searching | null;
}

/** That something is being worked out, for how long by now, and how far it is. */
export function Progress({ say, progress }: ProgressProps) {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setSeconds((s) => s + 1), 1000);
    return () => clearInterval(timer);
  }, []);
  const percent = progress && progress.share > 0 ? Math.min(99, Math.round(progress.share * 100)) : null;
  return (
    <div className="mt-2 text-faded" role="status">
      {say} …{" "}
      {progress && progress.before > 0
        ? `${progress.before} ahead of it`
        : percent !== null
          ? `${percent} %`
          : seconds > 0
            ? `${seconds} s`
            : ""}
      {percent !== null && (
        <progress className="mt-1 block h-1.5 w-full max-w-sm" max={100} value={percent} aria-label={say} />
      )}
    </div>
  );
}

/** That a search ended before all was tried. */
export function CutShort({ found }: { found: unknown }) {
  if (!isCutShort(found)) return null;
  return (
    <p className="mt-2 text-close">
      The job is too large to try everything: this is the best found, and a better one may exist.
    </p>
  );
}
