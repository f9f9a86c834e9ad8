import createClient from "openapi-fetch";
import { forgetBut, keep, recall } from "./kept";
import type { components, paths } from "./schema";
import type { CellIn, Change, ClashAnswer, JobState, Refusal } from "./types";

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

/** Thrown when the server failed over what it was asked. */
export class Broken extends Error {}

/** What a proxy or a server that is starting says: the same as no answer. */
const ABSENT = [502, 503, 504];

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Whether the server answers, for whoever wants to say so; how often something kept stood in for it. */
export const reach = (() => {
  let away = false;
  let stoodIn = 0;
  const listeners = new Set<() => void>();
  return {
    get: () => away,
    stoodIn: () => stoodIn,
    subscribe: (listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    is(found: boolean, instead = false) {
      if (instead) stoodIn += 1;
      if (away === found) return;
      away = found;
      for (const listener of listeners) listener();
    },
  };
})();

/** Whose answers are kept; empty until it is known who is there. */
let person = "";
/** Counts who signed out here: an answer to somebody before is not kept. */
let partings = 0;
const WAITS = "This waits for the signal: it was not looked at on this device before.";

/** Ask, and keep the answer on this device; with no server the one kept last stands in for it. about: what is asked, of a job beginning with its identity. */
async function kept<T>(about: string, ask: () => Promise<T>): Promise<T> {
  const mine = person;
  try {
    const found = await ask();
    // Of somebody who signed out meanwhile nothing is kept.
    if (mine && mine === person) void keep(mine, about, found);
    return found;
  } catch (error) {
    if (!(error instanceof Away)) throw error;
    const found = await recall(mine, about);
    if (found === undefined) throw new Away(WAITS);
    reach.is(true, true);
    return found as T;
  }
}

/** Something the server has to work out: without it, it waits. */
async function waiting<T>(ask: Promise<T>): Promise<T> {
  try {
    return await ask;
  } catch (error) {
    throw error instanceof Away ? new Away("This waits for the signal: the server works it out.") : error;
  }
}

async function take<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch (error) {
    // Whoever no longer wants to know has not found out anything.
    if (!(error instanceof DOMException && error.name === "AbortError")) reach.is(true);
    throw new Away("The server cannot be reached.");
  }
  if (ABSENT.includes(answer.response.status)) {
    reach.is(true);
    throw new Away("The server cannot be reached.");
  }
  reach.is(false);
  if (answer.response.ok) return answer.data as T;
  if (answer.response.status >= 500) throw new Broken("The server has trouble of its own.");
  const refusal = answer.error as Refusal | undefined;
  throw new ApiError(answer.response.status, refusal?.message ? refusal : { message: "Refused.", errors: [] });
}

export type Searching = components["schemas"]["Searching"];

/** Who asks for a search: told how far it is, until it no longer wants to know. */
export interface Watch {
  signal: AbortSignal;
  told: (progress: Searching) => void;
}

/** How long a page waits before it asks again. A search nobody asks for is given up. */
const ASK_AGAIN = 400;
const cutShort = new WeakSet<object>();
/** Whether a search ended before all was tried. */
export const isCutShort = (found: unknown) => typeof found === "object" && found !== null && cutShort.has(found);

function search<T>(ask: (signal: AbortSignal) => Promise<Answer<T | Searching>>, watch: Watch) {
  return waiting(searching(ask, watch));
}

async function searching<T>(
  ask: (signal: AbortSignal) => Promise<Answer<T | Searching>>,
  { signal, told }: Watch,
): Promise<Exclude<T, Searching>> {
  for (;;) {
    let last: Response | undefined;
    const found = await take(
      ask(signal).then((answer) => {
        last = answer.response;
        return answer;
      }),
    );
    if (last?.status !== 202) {
      if (last?.headers.get("Search-Cut-Short")) cutShort.add(found as object);
      return found as Exclude<T, Searching>;
    }
    told(found as Searching);
    await new Promise((wake) => setTimeout(wake, ASK_AGAIN));
    signal.throwIfAborted();
  }
}

/** Who is there. With no server: whoever was there last in this browser and did not sign out. */
export async function who() {
  let found: Awaited<ReturnType<typeof session>>;
  const before = partings;
  try {
    found = await session();
    if (before !== partings) found = await session();
    person = found.signed_in ? (found.person ?? "") : "";
    void (found.signed_in ? keep("", "session", found) : forgetBut(""));
  } catch (error) {
    const last = error instanceof Away ? await recall("", "session") : undefined;
    if (!last) throw error;
    found = last as typeof found;
    person = found.person ?? "";
    reach.is(true, true);
  }
  token = found.csrf;
  return found;
}
const session = () => take(api.GET("/api/session"));

export async function signIn(username: string, password: string, code = "") {
  const found = await take(api.POST("/api/session", { body: { username, password, code } }));
  token = found.csrf;
  return found;
}

export async function signOut() {
  const found = await take(api.DELETE("/api/session"));
  token = found.csrf;
  person = "";
  partings += 1;
  await forgetBut("");
  return found;
}

export async function actIn(member: number) {
  const found = await take(api.POST("/api/session/firm", { body: { member } }));
  token = found.csrf;
  return found;
}
export const devices = () => take(api.GET("/api/session/devices"));
export const endDevice = (device_id: string) =>
  take(api.DELETE("/api/session/devices/{device_id}", { params: { path: { device_id } } }));
export async function changePassword(old: string, fresh: string) {
  const found = await take(api.POST("/api/session/password", { body: { old, new: fresh } }));
  token = found.csrf;
  return found;
}
export const secondStep = () => take(api.GET("/api/session/second"));
export const beginSecondStep = () => take(api.POST("/api/session/second"));
export const confirmSecondStep = (code: string) => take(api.POST("/api/session/second/confirm", { body: { code } }));
export const endSecondStep = (code: string) => take(api.POST("/api/session/second/end", { body: { code } }));

export type Role = components["schemas"]["Role"];
export type Firm = components["schemas"]["FirmOut"];
export type Member = components["schemas"]["MemberOut"];
const ofMember = (member_id: number) => ({ params: { path: { member_id } } });
export const firm = () => take(api.GET("/api/firm"));
export const renameFirm = (name: string) => take(api.PATCH("/api/firm", { body: { name } }));
export const giveRole = (member: number, role: Role) =>
  take(api.PATCH("/api/firm/members/{member_id}", { ...ofMember(member), body: { role } }));
export const handOver = (member: number) => take(api.POST("/api/firm/members/{member_id}/hand-over", ofMember(member)));
export const removeMember = (member: number) => take(api.DELETE("/api/firm/members/{member_id}", ofMember(member)));
export const invite = (name: string, role: Role) => take(api.POST("/api/firm/invitations", { body: { name, role } }));
export const takeBackInvitation = (invitation_id: string) =>
  take(api.DELETE("/api/firm/invitations/{invitation_id}", { params: { path: { invitation_id } } }));
export const firmEvents = (before?: number) =>
  take(api.GET("/api/firm/events", { params: { query: before ? { before } : {} } }));
const ofToken = (key: string) => ({ params: { path: { token: key } } });
export const openInvitation = (key: string) => take(api.GET("/api/invitations/{token}", ofToken(key)));
export async function join(key: string, username: string, password: string) {
  const found = await take(api.POST("/api/invitations/{token}", { ...ofToken(key), body: { username, password } }));
  token = found.csrf;
  return found;
}
export const links = (job: string) => take(api.GET("/api/jobs/{job_id}/links", { params: { path: { job_id: job } } }));
export const makeLink = (job: string, name: string, days: number) =>
  take(api.POST("/api/jobs/{job_id}/links", { params: { path: { job_id: job } }, body: { name, days } }));
export const endLink = (job_id: string, link_id: string) =>
  take(api.DELETE("/api/jobs/{job_id}/links/{link_id}", { params: { path: { job_id, link_id } } }));
export const sharedJob = (key: string) => take(api.GET("/api/shared/{token}", ofToken(key)));

export type PullList = components["schemas"]["PullList"];
export type PullLine = components["schemas"]["PullLine"];
export const pullList = (job: string) =>
  kept(`${job}/pulls`, () => take(api.GET("/api/jobs/{job_id}/pulls", { params: { path: { job_id: job } } })));
export type Cutting = components["schemas"]["Cutting"];
export const writeDown = (
  job_id: string,
  entry: { id: string; kind: string; subject: string | null; data: Record<string, unknown>; at: string },
) => take(api.POST("/api/jobs/{job_id}/site", { params: { path: { job_id } }, body: entry as never }));
export type SiteRules = components["schemas"]["SiteRulesIn"];
export const siteRules = () => kept("site-rules", () => take(api.GET("/api/firm/site-rules")));
export const setSiteRules = (body: SiteRules) => take(api.PATCH("/api/firm/site-rules", { body }));

export type Ends = components["schemas"]["Ends"];
export const endsOf = (job: string) =>
  kept(`${job}/ends`, () => take(api.GET("/api/jobs/{job_id}/ends", { params: { path: { job_id: job } } })));
export type Isolations = components["schemas"]["Isolations"];
export type IsolationOut = components["schemas"]["IsolationOut"];
export type IsolationRecord = components["schemas"]["Record"];
export type IsolationDone = components["schemas"]["Done"];
export const isolations = (job: string) =>
  kept(`${job}/isolation`, () => take(api.GET("/api/jobs/{job_id}/isolation", { params: { path: { job_id: job } } })));
export const isolationPlan = (job_id: string, kind: string, id: string) =>
  kept(`${job_id}/isolation/${kind}/${id}`, () =>
    take(api.GET("/api/jobs/{job_id}/isolation/plan", { params: { path: { job_id }, query: { kind, id } } })),
  );
export type JobTests = components["schemas"]["JobTests"];
export type CircuitTests = components["schemas"]["CircuitTests"];
export type SiteTest = components["schemas"]["SiteTest"];
export type Shown = components["schemas"]["Shown"];
export const jobTests = (job: string) =>
  kept(`${job}/tests`, () => take(api.GET("/api/jobs/{job_id}/tests", ofJob(job))));
export const circuitTests = (job: string, circuit: string) =>
  kept(`${job}/tests/${circuit}`, () =>
    take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/tests", ofCircuit(job, circuit))),
  );
/** The tests at a board itself, in the shape of those of a circuit. */
export const boardTests = (job_id: string, board_id: string) =>
  kept(`${job_id}/tests/${board_id}`, () =>
    take(api.GET("/api/jobs/{job_id}/boards/{board_id}/tests", { params: { path: { job_id, board_id } } })),
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
export const issueJob = (job: string, version: number, note: string) =>
  take(api.POST("/api/jobs/{job_id}/revisions", { ...ofJob(job), body: { version, note } }));
export const signRevision = (job_id: string, revision: number, hash: string, read: string[], exceptions: string) =>
  take(
    api.POST("/api/jobs/{job_id}/revisions/{revision}/signature", {
      params: { path: { job_id, revision } },
      body: { hash, read, exceptions },
    }),
  );
export const compareRevisions = (job_id: string, old: number, fresh: number) =>
  take(api.GET("/api/jobs/{job_id}/revisions/compare", { params: { path: { job_id }, query: { old, new: fresh } } }));
export const revisionFile = (job: string, revision: number) => `/api/jobs/${job}/revisions/${revision}/file`;
export type PaperKind = components["schemas"]["PaperKind"];
export type PaperLook = components["schemas"]["PaperLook"];
export type PaperForm = "pdf" | "xlsx" | "csv" | "json";
export const papers = (job_id: string, revision: number) =>
  kept(`${job_id}/papers/${revision}`, () =>
    take(api.GET("/api/jobs/{job_id}/papers", { params: { path: { job_id }, query: { revision } } })),
  );
export const paperLook = (job_id: string, paper_id: string, subject: string, revision: number) =>
  kept(`${job_id}/papers/${revision}/${paper_id}/${subject}`, () =>
    take(
      api.GET("/api/jobs/{job_id}/papers/{paper_id}", {
        params: { path: { job_id, paper_id }, query: { subject, revision } },
      }),
    ),
  );
/** A paper as a file, with the name it is saved under; where it takes a while, told how far it is. */
export async function paperFile(
  job_id: string,
  asked: { paper: string; form: PaperForm; subject: string; revision: number },
  watch: Watch,
): Promise<{ name: string; file: Blob }> {
  const { paper, form, subject, revision } = asked;
  for (;;) {
    let last: Response | undefined;
    const found = await waiting(
      take(
        api
          .GET("/api/jobs/{job_id}/papers/{paper_id}/{form}", {
            params: { path: { job_id, paper_id: paper, form }, query: { subject, revision } },
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
      const name = /filename="([^"]+)"/.exec(last?.headers.get("Content-Disposition") ?? "")?.[1];
      return { name: name ?? `${paper}.${form}`, file };
    }
    watch.told(JSON.parse(await file.text()) as Searching);
    await new Promise((wake) => setTimeout(wake, ASK_AGAIN));
    watch.signal.throwIfAborted();
  }
}
export const siteEntries = (job: string) =>
  kept(`${job}/site`, () => take(api.GET("/api/jobs/{job_id}/site", ofJob(job))));
export type Materials = components["schemas"]["Materials"];
export type MaterialLine = components["schemas"]["MaterialLine"];
export type Substitute = components["schemas"]["Substitute"];
export const materials = (job: string) =>
  kept(`${job}/materials`, () => take(api.GET("/api/jobs/{job_id}/materials", { params: { path: { job_id: job } } })));
export const substitutes = (job_id: string, key: string, count: number) =>
  take(api.GET("/api/jobs/{job_id}/materials/substitutes", { params: { path: { job_id }, query: { key, count } } }));
export const pricesFile = "/api/firm/prices/file";
export const setPrices = (text: string) => take(api.PUT("/api/firm/prices", { body: { text } }));
export const dropPrices = () => take(api.DELETE("/api/firm/prices"));

export const listJobs = (search = "", archived = false, page = 1, removed = false) =>
  take(api.GET("/api/jobs", { params: { query: { search, archived, removed, page } } }));
export const bringJobBack = (job_id: string) =>
  take(api.POST("/api/jobs/{job_id}/bring-back", { params: { path: { job_id } } }));
export const archiveJob = (job_id: string, archived: boolean) =>
  take(api.POST("/api/jobs/{job_id}/archive", { params: { path: { job_id } }, body: { archived } }));
export const history = (job_id: string, before?: number) =>
  take(api.GET("/api/jobs/{job_id}/history", { params: { path: { job_id }, query: before ? { before } : {} } }));
export type NewJobIn = paths["/api/jobs"]["post"]["requestBody"]["content"]["application/json"];
export const addJob = (body: NewJobIn) => take(api.POST("/api/jobs", { body }));
export const importJob = (file: Record<string, never>) => take(api.POST("/api/jobs/import", { body: file }));
export const exportAddress = (job_id: string) => `/api/jobs/${job_id}/export`;
export const removeJob = (job_id: string) => take(api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id } } }));
export const sizeCircuit = (job: string, circuit: string, watch: Watch) =>
  search(
    (signal) => api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/size", { ...ofCircuit(job, circuit), signal }),
    watch,
  );
const ofJob = (job_id: string) => ({ params: { path: { job_id } } });
const ofCircuit = (job_id: string, circuit_id: string) => ({ params: { path: { job_id, circuit_id } } });
export const overview = (job: string) =>
  kept(`${job}/overview`, () => take(api.GET("/api/jobs/{job_id}/overview", ofJob(job))));
export const cheapest = (job: string, watch: Watch) =>
  search((signal) => api.GET("/api/jobs/{job_id}/cheapest", { ...ofJob(job), signal }), watch);
export const waysOut = (job: string, circuit: string, watch: Watch) =>
  search(
    (signal) => api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/options", { ...ofCircuit(job, circuit), signal }),
    watch,
  );
export const reaches = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/reach", ofCircuit(job, circuit)));
export const intakeOptions = (job: string, watch: Watch) =>
  search((signal) => api.GET("/api/jobs/{job_id}/intake/options", { ...ofJob(job), signal }), watch);
export const boardOptions = (job_id: string, board_id: string, watch: Watch) =>
  search(
    (signal) =>
      api.GET("/api/jobs/{job_id}/boards/{board_id}/options", { params: { path: { job_id, board_id } }, signal }),
    watch,
  );
export const routesOf = (job: string) => take(api.GET("/api/jobs/{job_id}/routes", ofJob(job)));
export const routeTryouts = (job_id: string, route_id: string, watch: Watch) =>
  search(
    (signal) =>
      api.GET("/api/jobs/{job_id}/routes/{route_id}/tryouts", { params: { path: { job_id, route_id } }, signal }),
    watch,
  );
export const boardEarthing = (job_id: string, board_id: string) =>
  take(api.GET("/api/jobs/{job_id}/boards/{board_id}/earthing", { params: { path: { job_id, board_id } } }));
export const rules = (ruleset: string) =>
  kept(`rules/${ruleset}`, () => take(api.GET("/api/rules/{ruleset}", { params: { path: { ruleset } } })));
export const jobCells = (job: string) => take(api.GET("/api/jobs/{job_id}/cells", ofJob(job)));
export const readCell = (ruleset: string, body: CellIn) =>
  take(api.POST("/api/rules/{ruleset}/cells", { params: { path: { ruleset } }, body }));
export const reopenCell = (ruleset: string, cell: { table: string; row: string; column: string }) =>
  take(api.DELETE("/api/rules/{ruleset}/cells", { params: { path: { ruleset }, query: cell } }));
export const tables = (ruleset: string) =>
  take(api.GET("/api/rules/{ruleset}/tables", { params: { path: { ruleset } } }));
export const table = (ruleset: string, number: string) =>
  take(api.GET("/api/rules/{ruleset}/tables/{number}", { params: { path: { ruleset, number } } }));

export type SendAnswer = { is: "landed"; state: JobState } | { is: "clashed"; answer: ClashAnswer };
type Focus = string | null;

/** Look at a job. With the tag of what is there already: "unchanged" while it is so. */
export async function look(job_id: string, focus: Focus, tag: string | null, signal: AbortSignal) {
  const params = { path: { job_id }, query: focus ? { focus } : {} };
  let unchanged = false;
  const found = await take(
    api.GET("/api/jobs/{job_id}", { params, signal, headers: tag ? { "If-None-Match": tag } : {} }).then((answer) => {
      unchanged = answer.response.status === 304;
      return unchanged ? { data: null as unknown as JobState, response: new Response() } : answer;
    }),
  );
  if (unchanged) return "unchanged" as const;
  if (person) void keep(person, `${job_id}/state/${focus ?? ""}`, found);
  return found;
}

/** A job as it was last looked at on this device: with the circuit in focus where that was, else as a whole; null where it never was. */
export async function recallJob(job_id: string, focus: Focus): Promise<JobState | null> {
  const found =
    (await recall(person, `${job_id}/state/${focus ?? ""}`)) ?? (await recall(person, `${job_id}/state/`)) ?? null;
  return found as JobState | null;
}

/** An answer to an edit: a clash is one too, and brings the job as it stands. */
async function sent(call: Promise<Answer<JobState>>): Promise<SendAnswer> {
  let clash: ClashAnswer | null = null;
  const state = await take(
    call.then((answer) => {
      if (answer.response.status !== 409) return answer;
      clash = answer.error as ClashAnswer;
      return { data: clash.state, response: new Response() };
    }),
  );
  return clash ? { is: "clashed", answer: clash } : { is: "landed", state };
}

interface EditBody {
  edit_id: string;
  version: number;
  seen: number[];
  changes: Change[];
  focus: Focus;
}

export const sendEdit = (job_id: string, edit: EditBody, signal: AbortSignal) =>
  sent(api.PATCH("/api/jobs/{job_id}", { params: { path: { job_id } }, body: { ...edit, dry_run: false }, signal }));
export const sendUndo = (
  job_id: string,
  body: { edit_id: string; again: boolean; focus: Focus },
  signal: AbortSignal,
) => sent(api.POST("/api/jobs/{job_id}/undo", { params: { path: { job_id } }, body, signal }));
export const sendBack = (
  job_id: string,
  body: { edit_id: string; version: number; to: number; focus: Focus },
  signal: AbortSignal,
) => sent(api.POST("/api/jobs/{job_id}/back", { params: { path: { job_id } }, body, signal }));

/** Ask what changes would do; nothing is saved. */
export const attempt = (job_id: string, changes: Change[], version: number, focus: Focus, signal: AbortSignal) =>
  take(
    api.PATCH("/api/jobs/{job_id}", {
      params: { path: { job_id } },
      body: { edit_id: crypto.randomUUID(), version, seen: [], changes, focus, dry_run: true },
      signal,
    }) as Promise<Answer<JobState>>,
  );

export const said = (job: string, text: string, board: string | null) =>
  take(api.POST("/api/jobs/{job_id}/said", { ...ofJob(job), body: { text, board } }));

type RowsIn = paths["/api/jobs/{job_id}/said/rows"]["post"]["requestBody"]["content"]["application/json"];
export const saidRows = (job: string, body: RowsIn) =>
  take(api.POST("/api/jobs/{job_id}/said/rows", { ...ofJob(job), body }));

export const assumptions = (job: string, watch: Watch) =>
  search((signal) => api.GET("/api/jobs/{job_id}/assumptions", { ...ofJob(job), signal }), watch);
export const curves = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/curves", ofCircuit(job, circuit)));
export const breaks = (job: string, circuit: string, watch: Watch) =>
  search(
    (signal) => api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/breaks", { ...ofCircuit(job, circuit), signal }),
    watch,
  );
export const balanceBoard = (job_id: string, board_id: string) =>
  take(api.GET("/api/jobs/{job_id}/boards/{board_id}/balance", { params: { path: { job_id, board_id } } }));

export const copies = (job: string, watch: Watch) =>
  search((signal) => api.GET("/api/jobs/{job_id}/copies", { ...ofJob(job), signal }), watch);
export const addCopy = (job: string, body: { id: string; name: string; changes: Change[] }) =>
  take(api.POST("/api/jobs/{job_id}/copies", { ...ofJob(job), body }));
export const removeCopy = (job_id: string, copy_id: string) =>
  take(api.DELETE("/api/jobs/{job_id}/copies/{copy_id}", { params: { path: { job_id, copy_id } } }));

export const searchTables = (ruleset: string, words: string) =>
  take(api.GET("/api/rules/{ruleset}/search", { params: { path: { ruleset }, query: { words } } }));
export const cellsRead = (ruleset: string) =>
  take(api.GET("/api/rules/{ruleset}/cells", { params: { path: { ruleset } } }));
