import { useEffect, useState } from "react";
import { useJob } from "../sync/job-context";

/** So long [ms] the short word beside the name of the job will do. */
const LONG = 120_000;

/** Since when [ms] the server has not been reached, once that is long; null before, and as soon as it answers. */
export function useLongAway(): number | null {
  const { flow } = useJob();
  const away = flow.is === "resting" && flow.why === "away";
  const answered = flow.is === "idle";
  const [since, setSince] = useState<number | null>(null);
  const [long, setLong] = useState(false);
  // Between two tries it is neither away nor reached: only an answer ends it.
  useEffect(() => {
    if (answered) {
      setSince(null);
      setLong(false);
    } else if (away) setSince((before) => before ?? Date.now());
  }, [away, answered]);
  useEffect(() => {
    if (since === null) return;
    const timer = setTimeout(() => setLong(true), Math.max(0, since + LONG - Date.now()));
    return () => clearTimeout(timer);
  }, [since]);
  return long ? since : null;
}
