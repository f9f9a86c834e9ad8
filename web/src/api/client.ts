import createClient from "openapi-fetch";
import type { paths } from "./schema";
import type { Change, JobState, Refusal } from "./types";

/** The only caller of fetch. The token comes with the answer to "who am I" and goes with every change. */
let token = "";

export const api = createClient<paths>({ baseUrl: "/" });
api.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", token);
    return request;
  },
});

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly refusal: Refusal,
  ) {
    super(refusal.message);
  }
}

/** Thrown when no answer came at all: the server or the way to it is gone. */
export class Away extends Error {}

type Answer<T> = { data?: T; error?: unknown; response: Response };

async function take<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new Away("The server cannot be reached.");
  }
  if (answer.response.ok) return answer.data as T;
  if (answer.response.status >= 500) throw new Away("The server has trouble of its own.");
  const refusal = answer.error as Refusal | undefined;
  throw new ApiError(answer.response.status, refusal?.message ? refusal : { message: "Refused.", errors: [] });
}

export async function who() {
  const found = await take(api.GET("/api/session"));
  token = found.csrf;
  return found;
}

export async function signIn(username: string, password: string) {
  const found = await take(api.POST("/api/session", { body: { username, password } }));
  token = found.csrf;
  return found;
}

export async function signOut() {
  const found = await take(api.DELETE("/api/session"));
  token = found.csrf;
  return found;
}

export const listJobs = () => take(api.GET("/api/jobs"));
export const addJob = (name: string) => take(api.POST("/api/jobs", { body: { name } }));
export const importJob = (file: Record<string, never>) => take(api.POST("/api/jobs/import", { body: file }));
export const exportAddress = (job_id: string) => `/api/jobs/${job_id}/export`;
export const removeJob = (job_id: string) => take(api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id } } }));
export const openJob = (job_id: string, focus: string | null) =>
  take(api.GET("/api/jobs/{job_id}", { params: { path: { job_id }, query: focus ? { focus } : {} } }));
export const sizeCircuit = (job_id: string, circuit_id: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/size", { params: { path: { job_id, circuit_id } } }));
const ofJob = (job_id: string) => ({ params: { path: { job_id } } });
const ofCircuit = (job_id: string, circuit_id: string) => ({ params: { path: { job_id, circuit_id } } });
export const overview = (job: string) => take(api.GET("/api/jobs/{job_id}/overview", ofJob(job)));
export const holds = (job: string) => take(api.GET("/api/jobs/{job_id}/holds", ofJob(job)));
export const cheapest = (job: string) => take(api.GET("/api/jobs/{job_id}/cheapest", ofJob(job)));
export const waysOut = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/options", ofCircuit(job, circuit)));
export const readings = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/readings", ofCircuit(job, circuit)));
export const reaches = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/reach", ofCircuit(job, circuit)));
export const boardEarthing = (job_id: string, board_id: string) =>
  take(api.GET("/api/jobs/{job_id}/boards/{board_id}/earthing", { params: { path: { job_id, board_id } } }));
export const rules = (ruleset: string) => take(api.GET("/api/rules/{ruleset}", { params: { path: { ruleset } } }));
export const tables = (ruleset: string) =>
  take(api.GET("/api/rules/{ruleset}/tables", { params: { path: { ruleset } } }));
export const table = (ruleset: string, number: string) =>
  take(api.GET("/api/rules/{ruleset}/tables/{number}", { params: { path: { ruleset, number } } }));

export interface Edit {
  edit_id: string;
  version: number;
  changes: Change[];
  focus: string | null;
  dry_run: boolean;
}

export type EditAnswer = { stale: false; state: JobState } | { stale: true; state: JobState };

/** Send an edit. A stale one is an answer, not an error: it brings the state as it stands. */
export async function sendEdit(job_id: string, edit: Edit): Promise<EditAnswer> {
  let answer: Awaited<ReturnType<typeof patch>>;
  const patch = () => api.PATCH("/api/jobs/{job_id}", { params: { path: { job_id } }, body: edit });
  try {
    answer = await patch();
  } catch {
    throw new Away("The server cannot be reached.");
  }
  if (answer.response.status === 409) return { stale: true, state: answer.error as JobState };
  return { stale: false, state: await take(Promise.resolve(answer as Answer<JobState>)) };
}
