import { useParams } from "react-router";

/** The addresses of the views of a job. */
export const pathsOf = (job: string) => {
  const base = `/jobs/${job}`;
  return {
    attention: base,
    intake: (field?: string | null) => `${base}/intake${field ? `?field=${field}` : ""}`,
    whole: (part?: string) => `${base}/whole${part ? `?part=${part}` : ""}`,
    routes: (route?: string | null) => `${base}/routes${route ? `?part=${route}` : ""}`,
    history: `${base}/history`,
    tables: `${base}/tables`,
    table: (number: string) => `${base}/tables/${encodeURIComponent(number)}`,
    circuit: (id: string, how: { check?: string | null; seek?: boolean; fresh?: boolean } = {}) => {
      const query = new URLSearchParams();
      if (how.check) query.set("check", how.check);
      if (how.seek) query.set("seek", "1");
      if (how.fresh) query.set("new", "1");
      return `${base}/circuits/${id}${query.size > 0 ? `?${query}` : ""}`;
    },
  };
};

/** The addresses of the job that is open. */
export function usePaths() {
  const { jobId = "" } = useParams();
  return pathsOf(jobId);
}
