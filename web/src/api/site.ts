/** What is done on site and leaves the screen, as the page asks for it. */
import type { components } from "./schema";
import {
  Away,
  api,
  asRefused,
  awaited,
  kept,
  keptThere,
  nameIn,
  ofCircuit,
  ofJob,
  placeOf,
  type Searching,
  search,
  take,
  type Watch,
  waiting,
  watched,
} from "./wire";

export type PullList = components["schemas"]["PullList"];
export type PullLine = components["schemas"]["PullLine"];
/** What is kept of a job, and asked of it, at one of its stages: empty for none in particular. */
const at = (stage: string) => (stage ? `/stage/${stage}` : "");
const ofStage = (job_id: string, stage: string) => ({
  params: { path: { job_id }, ...(stage ? { query: { stage } } : {}) },
});
export const pullList = (job: string, stage = "") =>
  kept(`${job}/pulls${at(stage)}`, () => take(api.GET("/api/jobs/{job_id}/pulls", ofStage(job, stage))));
export type Cutting = components["schemas"]["Cutting"];
export const writeDown = async (
  job_id: string,
  entry: { id: string; kind: string; subject: string | null; data: Record<string, unknown>; at: string },
) => {
  const found = await take(
    api.POST("/api/jobs/{job_id}/site", {
      params: { path: { job_id } },
      body: { ...entry, sent: new Date().toISOString() } as never,
    }),
  );
  // Whatever else answers with 200 has stored nothing.
  if (!found?.id) throw new Away("Something between here and the server answered in its place.");
  return found;
};
/** Write several down at once; for each why it was not accepted, empty where it is stored. */
export const writeAllDown = async (
  job_id: string,
  entries: readonly { id: string; kind: string; subject: string | null; data: Record<string, unknown>; at: string }[],
): Promise<string[]> => {
  const sent = new Date().toISOString();
  const found = await take(
    api.POST("/api/jobs/{job_id}/site/entries", { params: { path: { job_id } }, body: { entries, sent } as never }),
  );
  const whys = new Map(found.entries.map((e) => [e.id, e.why]));
  // An answer that does not tell of each is none.
  return entries.flatMap((e) => whys.get(e.id) ?? []);
};
export type FileLook = components["schemas"]["FileLook"];
export type FileRow = components["schemas"]["FileRow"];
/** What each line of an instrument's file was read as; nothing is written down by it. */
export const readInstrumentFile = (job_id: string, content: string, decimal: "" | "point" | "comma") =>
  take(api.POST("/api/jobs/{job_id}/site/file", { params: { path: { job_id } }, body: { content, decimal } }));
export type SiteRules = components["schemas"]["SiteRulesIn"];
export const siteRules = () => kept("site-rules", () => take(api.GET("/api/firm/site-rules")));
export const setSiteRules = (body: SiteRules) => take(api.PATCH("/api/firm/site-rules", { body }));

export type Ends = components["schemas"]["Ends"];
export const endsOf = (job: string, stage = "") =>
  kept(`${job}/ends${at(stage)}`, () => take(api.GET("/api/jobs/{job_id}/ends", ofStage(job, stage))));
export type Isolations = components["schemas"]["Isolations"];
export type IsolationOut = components["schemas"]["IsolationOut"];
export type IsolationRecord = components["schemas"]["Record"];
export type IsolationDone = components["schemas"]["Done"];
export const isolations = (job: string, stage = "") =>
  kept(`${job}/isolation${at(stage)}`, () => take(api.GET("/api/jobs/{job_id}/isolation", ofStage(job, stage))));
export const isolationPlan = (job_id: string, kind: string, id: string, stage = "") =>
  kept(`${job_id}/isolation/${kind}/${id}${at(stage)}`, () =>
    take(
      api.GET("/api/jobs/{job_id}/isolation/plan", {
        params: { path: { job_id }, query: { kind, id, ...(stage ? { stage } : {}) } },
      }),
    ),
  );
export type JobTests = components["schemas"]["JobTests"];
export type CircuitTests = components["schemas"]["CircuitTests"];
export type SiteTest = components["schemas"]["SiteTest"];
export type Shown = components["schemas"]["Shown"];
export const jobTests = (job: string, stage = "") =>
  kept(`${job}/tests${at(stage)}`, () => take(api.GET("/api/jobs/{job_id}/tests", ofStage(job, stage))));
export const circuitTests = (job_id: string, circuit_id: string, stage = "") =>
  kept(`${job_id}/tests/${circuit_id}${at(stage)}`, () =>
    take(
      api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/tests", {
        params: { path: { job_id, circuit_id }, ...(stage ? { query: { stage } } : {}) },
      }),
    ),
  );
/** The tests at a board itself, in the shape of those of a circuit. */
export const boardTests = (job_id: string, board_id: string, stage = "") =>
  kept(`${job_id}/tests/${board_id}${at(stage)}`, () =>
    take(
      api.GET("/api/jobs/{job_id}/boards/{board_id}/tests", {
        params: { path: { job_id, board_id }, ...(stage ? { query: { stage } } : {}) },
      }),
    ),
  );
type ReadIn = components["schemas"]["ReadIn"];
export const readInstrument = (
  job: string,
  circuit: string,
  quantity: SiteTest["quantity"],
  at: number | null,
  fault: string,
  seed: number,
) =>
  take(
    api.POST("/api/jobs/{job_id}/circuits/{circuit_id}/instrument", {
      ...ofCircuit(job, circuit),
      body: { quantity, at, fault: fault as ReadIn["fault"], seed },
    }),
  );
export const photoAddress = (job: string, photo: string) => `/api/jobs/${job}/photos/${photo}`;
export type Existing = components["schemas"]["Existing"];
export type Observation = components["schemas"]["Observation"];
export const existing = (job: string) =>
  kept(`${job}/existing`, () => take(api.GET("/api/jobs/{job_id}/existing", ofJob(job))));
export type Revisions = components["schemas"]["Revisions"];
export type Revision = components["schemas"]["Revision"];
export const revisions = (job: string) =>
  kept(`${job}/revisions`, () => take(api.GET("/api/jobs/{job_id}/revisions", ofJob(job))));
/** Issue a job. Of a large one it is asked again until it is done: asked twice it is issued once. */
export const issueJob = (job: string, version: number, note: string) =>
  search((signal) => watched.POST("/api/jobs/{job_id}/revisions", { ...ofJob(job), body: { version, note }, signal }), {
    signal: new AbortController().signal,
    told: () => {},
  });
export const signRevision = (job_id: string, revision: number, hash: string, read: string[], exceptions: string) =>
  take(
    api.POST("/api/jobs/{job_id}/revisions/{revision}/signature", {
      params: { path: { job_id, revision } },
      body: { hash, read, exceptions },
    }),
  );
export const compareRevisions = (job_id: string, old: number, fresh: number) =>
  keptThere(
    take(api.GET("/api/jobs/{job_id}/revisions/compare", { params: { path: { job_id }, query: { old, new: fresh } } })),
  );
export const revisionFile = (job: string, revision: number) => `/api/jobs/${job}/revisions/${revision}/file`;
export type PaperKind = components["schemas"]["PaperKind"];
export type PaperLook = components["schemas"]["PaperLook"];
export type PaperForm = "pdf" | "xlsx" | "csv" | "json";
export const papers = (job_id: string, revision: number) =>
  kept(`${job_id}/papers/${revision}`, () =>
    take(api.GET("/api/jobs/{job_id}/papers", { params: { path: { job_id }, query: { revision } } })),
  );
export const paperLook = (job_id: string, paper_id: string, subject: string, revision: number, stage = "") =>
  kept(`${job_id}/papers/${revision}/${paper_id}/${subject}${at(stage)}`, () =>
    take(
      api.GET("/api/jobs/{job_id}/papers/{paper_id}", {
        params: { path: { job_id, paper_id }, query: { subject, revision, ...(stage ? { stage } : {}) } },
      }),
    ),
  );
/** Where a paper that is made is opened by itself, as a page of the browser. */
export const paperAddress = (job: string, paper: string, subject: string, revision: number, stage = "") =>
  `/api/jobs/${job}/papers/${paper}/pdf?${new URLSearchParams({ subject, revision: String(revision), ...(stage ? { stage } : {}) })}`;
/** A paper as a file, with the name it is saved under; where it takes a while, told how far it is. */
export async function paperFile(
  job_id: string,
  asked: { paper: string; form: PaperForm; subject: string; revision: number; stage?: string },
  watch: Watch,
): Promise<{ name: string; file: Blob }> {
  const { paper, form, subject, revision, stage } = asked;
  for (;;) {
    let last: Response | undefined;
    const found = await waiting(
      take(
        watched
          .GET("/api/jobs/{job_id}/papers/{paper_id}/{form}", {
            params: {
              path: { job_id, paper_id: paper, form },
              query: { subject, revision, ...(stage ? { stage } : {}) },
            },
            parseAs: "blob",
            signal: watch.signal,
          })
          .then((answer) => {
            last = answer.response;
            return answer;
          }),
      ),
    );
    const file = found as Blob;
    if (last?.status !== 202) {
      return { name: (last && nameIn(last)) || `${paper}.${form}`, file };
    }
    watch.told(JSON.parse(await file.text()) as Searching);
    const refused = await awaited(placeOf(last), watch.signal, watch.told);
    if (refused) await take(asRefused(refused));
  }
}
export const siteEntries = (job: string) =>
  kept(`${job}/site`, () => take(api.GET("/api/jobs/{job_id}/site", ofJob(job))));
export type Materials = components["schemas"]["Materials"];
export type MaterialLine = components["schemas"]["MaterialLine"];
export type Substitute = components["schemas"]["Substitute"];
export const materials = (job: string, stage = "") =>
  kept(`${job}/materials${at(stage)}`, () => take(api.GET("/api/jobs/{job_id}/materials", ofStage(job, stage))));
export const substitutes = (job_id: string, key: string, count: number) =>
  waiting(
    take(api.GET("/api/jobs/{job_id}/materials/substitutes", { params: { path: { job_id }, query: { key, count } } })),
  );
export const pricesFile = "/api/firm/prices/file";
export const setPrices = (text: string) => take(api.PUT("/api/firm/prices", { body: { text } }));
export const dropPrices = () => take(api.DELETE("/api/firm/prices"));
