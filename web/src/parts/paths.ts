import { useParams } from "react-router";

/** The addresses of the views of a job. */
export const pathsOf = (job: string) => {
  const base = `/jobs/${job}`;
  return {
    attention: base,
    survey: (field?: string | null) => `${base}/survey${field ? `?field=${field}` : ""}`,
    demand: `${base}/demand`,
    boards: `${base}/boards`,
    board: (id: string) => `${base}/boards/${id}`,
    earthing: (board?: string | null) => `${base}/earthing${board ? `?part=${board}` : ""}`,
    coordination: (circuit?: string | null) => `${base}/coordination${circuit ? `?circuit=${circuit}` : ""}`,
    whatIf: `${base}/what-if`,
    routes: (route?: string | null) => `${base}/routes${route ? `?part=${route}` : ""}`,
    history: `${base}/history`,
    pulls: `${base}/pulls`,
    stages: `${base}/stages`,
    materials: `${base}/materials`,
    ends: `${base}/ends`,
    existing: `${base}/existing`,
    revisions: `${base}/revisions`,
    papers: (paper?: string, subject?: string) =>
      `${base}/papers${paper ? `?${new URLSearchParams({ paper, ...(subject ? { subject } : {}) })}` : ""}`,
    tests: (circuit?: string) => `${base}/tests${circuit ? `?circuit=${circuit}` : ""}`,
    isolation: (kind?: string, id?: string) =>
      `${base}/isolation${kind && id ? `?${new URLSearchParams({ kind, id })}` : ""}`,
    books: (other?: string) => `${base}/books${other ? `?book=${encodeURIComponent(other)}` : ""}`,
    tables: `${base}/tables`,
    search: (words: string) => `${base}/tables?words=${encodeURIComponent(words)}`,
    /** A table; with a cell, that cell is lit. */
    table: (number: string, cell?: { row: string; column: string }) =>
      `${base}/tables/${encodeURIComponent(number)}${cell ? `?${new URLSearchParams({ row: cell.row, column: cell.column })}` : ""}`,
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
