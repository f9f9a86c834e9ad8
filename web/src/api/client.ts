import { forgetBut, keep, keptJobs, recall } from "./kept";
import { showMoney } from "./money";
import type { components, paths } from "./schema";
import type { CellIn, Change, ClashAnswer, JobState } from "./types";
import {
  type Answer,
  Away,
  api,
  declared,
  here,
  kept,
  keptThere,
  nameIn,
  ofCircuit,
  ofJob,
  reach,
  search,
  take,
  type Watch,
  watched,
} from "./wire";

export { ApiError, Away, Broken, isCutShort, reach, type Searching, type Watch, working } from "./wire";

/** Who is there. With no server: whoever was there last in this browser and did not sign out. */
export async function who() {
  let found: Awaited<ReturnType<typeof session>>;
  const before = here.partings;
  try {
    found = await session();
    if (before !== here.partings) found = await session();
    isThere(found);
  } catch (error) {
    const last = error instanceof Away ? await recall("", "session") : undefined;
    if (!last) throw error;
    found = last as typeof found;
    here.person = found.person ?? "";
    reach.is(true, true);
  }
  showMoney(found.currency, found.vat);
  here.token = found.csrf;
  return found;
}
const session = () => take(api.GET("/api/session"));

/** Take note of who is there, however that was found out: from now on what is asked is kept on this device for them, and for nobody else. */
function isThere<T extends { signed_in: boolean; person: string; csrf: string }>(found: T): T {
  const now = found.signed_in ? (found.person ?? "") : "";
  if (now !== here.person || now === "") void forgetBut(now);
  here.person = now;
  here.token = found.csrf;
  if (now) void keep("", "session", found);
  return found;
}

/** Say how the firm shows amounts. */
export async function setMoney(currency: string, vat: number | null) {
  const found = await take(api.PATCH("/api/firm/money", { body: { currency, vat } }));
  showMoney(found.currency, found.vat);
  return found;
}

export async function signIn(username: string, password: string, code = "") {
  return isThere(await take(api.POST("/api/session", { body: { username, password, code } })));
}

export async function signOut() {
  const found = await take(api.DELETE("/api/session"));
  here.token = found.csrf;
  here.person = "";
  here.partings += 1;
  await forgetBut("");
  return found;
}

export async function actIn(member: number) {
  return isThere(await take(api.POST("/api/session/firm", { body: { member } })));
}
export const devices = () => take(api.GET("/api/session/devices"));
export const endDevice = (device_id: string) =>
  take(api.DELETE("/api/session/devices/{device_id}", { params: { path: { device_id } } }));
export async function changePassword(old: string, fresh: string) {
  const found = await take(api.POST("/api/session/password", { body: { old, new: fresh } }));
  here.token = found.csrf;
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
/** A link by which somebody who is or was here sets a new password. */
export const wayBack = (member: number) => take(api.POST("/api/firm/members/{member_id}/way-back", ofMember(member)));
export const takeBackInvitation = (invitation_id: string) =>
  take(api.DELETE("/api/firm/invitations/{invitation_id}", { params: { path: { invitation_id } } }));
export const firmEvents = (before?: number) =>
  take(api.GET("/api/firm/events", { params: { query: before ? { before } : {} } }));
const ofToken = (key: string) => ({ params: { path: { token: key } } });
export const openInvitation = (key: string) => take(api.GET("/api/invitations/{token}", ofToken(key)));
export async function join(key: string, typed: { username?: string; password?: string; code?: string }) {
  const body = { username: "", password: "", code: "", ...typed };
  return isThere(await take(api.POST("/api/invitations/{token}", { ...ofToken(key), body })));
}
export const links = (job: string) =>
  keptThere(take(api.GET("/api/jobs/{job_id}/links", { params: { path: { job_id: job } } })));
export const makeLink = (job: string, name: string, days: number) =>
  take(api.POST("/api/jobs/{job_id}/links", { params: { path: { job_id: job } }, body: { name, days } }));
export const endLink = (job_id: string, link_id: string) =>
  take(api.DELETE("/api/jobs/{job_id}/links/{link_id}", { params: { path: { job_id, link_id } } }));
export const sharedJob = (key: string) => take(api.GET("/api/shared/{token}", ofToken(key)));

type JobPage = components["schemas"]["JobPage"];
type JobLine = components["schemas"]["JobLine"];

/** A page of the jobs of the firm; with no server those that open here without one. */
export async function listJobs(search = "", archived = false, page = 1, removed = false): Promise<JobPage> {
  try {
    const found = await take(api.GET("/api/jobs", { params: { query: { search, archived, removed, page } } }));
    if (here.person && page === 1 && !(search || archived || removed)) void keep(here.person, "jobs", found);
    return found;
  } catch (error) {
    if (!(error instanceof Away)) throw error;
    // What is archived or deleted is known to the server alone.
    if (archived || removed) throw new Away("Needs a signal: only current jobs are kept on this device.");
    const jobs = await jobsHere(search);
    if (jobs.length === 0 && !search) throw error;
    reach.is(true, true);
    return { jobs, total: jobs.length, page: 1, pages: 1 };
  }
}

/** The jobs that open here without a server: as the list last told of them, and by their own last state where it did not. */
async function jobsHere(search: string): Promise<JobLine[]> {
  const last = (await recall(here.person, "jobs")) as JobPage | undefined;
  const lines = (await keptJobs(here.person)).map(({ job, at, state }) => {
    const told = last?.jobs.find((line) => line.id === job);
    return told ?? lineOf(job, at, state as JobState);
  });
  const wanted = search.trim().toLowerCase();
  return lines.filter((line) =>
    [line.name, line.client, line.place].some((text) => text.toLowerCase().includes(wanted)),
  );
}

function lineOf(id: string, at: number, state: JobState): JobLine {
  const count = (verdict: string) => state.summaries.filter((s) => s.verdict === verdict).length;
  const { name, client, place } = state.installation;
  const stands = {
    circuits: state.summaries.length,
    short: count("short"),
    not_known: count("not_known"),
    close: count("close"),
  };
  const rest = { by: "", archived: false, removed: null, trouble: state.trouble, issued: 0, on_site: false, tested: 0 };
  return { id, name, client, place, version: state.version, changed: new Date(at).toISOString(), ...stands, ...rest };
}

export const bringJobBack = (job_id: string) =>
  take(api.POST("/api/jobs/{job_id}/bring-back", { params: { path: { job_id } } }));
export const archiveJob = (job_id: string, archived: boolean) =>
  take(api.POST("/api/jobs/{job_id}/archive", { params: { path: { job_id } }, body: { archived } }));
export const history = (job_id: string, before?: number) =>
  keptThere(
    take(api.GET("/api/jobs/{job_id}/history", { params: { path: { job_id }, query: before ? { before } : {} } })),
  );
export type NewJobIn = paths["/api/jobs"]["post"]["requestBody"]["content"]["application/json"];
export const addJob = (body: NewJobIn) => take(api.POST("/api/jobs", { body }));
export const importJob = (file: Record<string, never>) => take(api.POST("/api/jobs/import", { body: file }));
/** A job as a file of the open format, with the name it is saved under. */
export async function jobFile(job_id: string): Promise<{ name: string; file: Blob }> {
  let name = "";
  const file = await take(
    api.GET("/api/jobs/{job_id}/export", { ...ofJob(job_id), parseAs: "blob" }).then((answer) => {
      name = nameIn(answer.response);
      return answer;
    }),
  );
  return { name: name || "job.json", file: file as unknown as Blob };
}
export const removeJob = (job_id: string) => take(api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id } } }));
export const sizeCircuit = (job: string, circuit: string, watch: Watch) =>
  search(
    (signal) => watched.GET("/api/jobs/{job_id}/circuits/{circuit_id}/size", { ...ofCircuit(job, circuit), signal }),
    watch,
  );
export const overview = (job: string) =>
  kept(`${job}/overview`, () => take(api.GET("/api/jobs/{job_id}/overview", ofJob(job))));
export const stagesTold = (job: string) =>
  kept(`${job}/stages`, () => take(api.GET("/api/jobs/{job_id}/stages", ofJob(job))));
export const stageSizes = (job: string, watch: Watch) =>
  search((signal) => watched.GET("/api/jobs/{job_id}/stages/sizes", { ...ofJob(job), signal }), watch);
export const cheapest = (job: string, watch: Watch) =>
  search((signal) => watched.GET("/api/jobs/{job_id}/cheapest", { ...ofJob(job), signal }), watch);
export const waysOut = (job: string, circuit: string, watch: Watch) =>
  search(
    (signal) => watched.GET("/api/jobs/{job_id}/circuits/{circuit_id}/options", { ...ofCircuit(job, circuit), signal }),
    watch,
  );
export const reaches = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/reach", ofCircuit(job, circuit)));
export const intakeOptions = (job: string, watch: Watch) =>
  search((signal) => watched.GET("/api/jobs/{job_id}/intake/options", { ...ofJob(job), signal }), watch);
export const boardOptions = (job_id: string, board_id: string, watch: Watch) =>
  search(
    (signal) =>
      watched.GET("/api/jobs/{job_id}/boards/{board_id}/options", { params: { path: { job_id, board_id } }, signal }),
    watch,
  );
export const routesOf = (job: string) => take(api.GET("/api/jobs/{job_id}/routes", ofJob(job)));
export const routeTryouts = (job_id: string, route_id: string, watch: Watch) =>
  search(
    (signal) =>
      watched.GET("/api/jobs/{job_id}/routes/{route_id}/tryouts", { params: { path: { job_id, route_id } }, signal }),
    watch,
  );
export const boardEarthing = (job_id: string, board_id: string) =>
  take(api.GET("/api/jobs/{job_id}/boards/{board_id}/earthing", { params: { path: { job_id, board_id } } }));
export const rules = (ruleset: string) =>
  kept(`rules/${ruleset}`, () => take(api.GET("/api/rules/{ruleset}", { params: { path: { ruleset } } })));
export type Why = components["schemas"]["Why"];
export const whyAsked = (ruleset: string) =>
  kept(`why/${ruleset}`, () => take(api.GET("/api/rules/{ruleset}/why", { params: { path: { ruleset } } })));
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
  if (here.person) void keep(here.person, `${job_id}/state/${focus ?? ""}`, found);
  return found;
}

/** A job as it was last looked at on this device: with the circuit in focus where that was, else as a whole; null where it never was. */
export async function recallJob(job_id: string, focus: Focus): Promise<JobState | null> {
  const found =
    (await recall(here.person, `${job_id}/state/${focus ?? ""}`)) ??
    (await recall(here.person, `${job_id}/state/`)) ??
    null;
  return found as JobState | null;
}

const isClash = (found: ClashAnswer | undefined): found is ClashAnswer =>
  Array.isArray(found?.clashes) && declared("PATCH /api/jobs/{job_id}", found.state);

/** An answer to an edit: a clash is one too, and brings the job as it stands. */
async function sent(call: Promise<Answer<JobState>>): Promise<SendAnswer> {
  let clash: ClashAnswer | null = null;
  const state = await take(
    call.then((answer) => {
      const found = answer.error as ClashAnswer | undefined;
      if (answer.response.status !== 409 || !isClash(found)) return answer;
      clash = found;
      return { data: clash.state, response: new Response() };
    }),
  );
  return clash ? { is: "clashed", answer: clash } : { is: "landed", state };
}

interface EditBody {
  edit_id: string;
  version: number;
  epoch: string;
  seen: number[];
  changes: Change[];
  focus: Focus;
}

export const sendEdit = (job_id: string, edit: EditBody, signal: AbortSignal) =>
  sent(api.PATCH("/api/jobs/{job_id}", { params: { path: { job_id } }, body: { ...edit, dry_run: false }, signal }));
export const sendUndo = (
  job_id: string,
  body: { edit_id: string; epoch: string; again: boolean; focus: Focus },
  signal: AbortSignal,
) => sent(api.POST("/api/jobs/{job_id}/undo", { params: { path: { job_id } }, body, signal }));
export const sendBack = (
  job_id: string,
  body: { edit_id: string; version: number; epoch: string; to: number; focus: Focus },
  signal: AbortSignal,
) => sent(api.POST("/api/jobs/{job_id}/back", { params: { path: { job_id } }, body, signal }));

/** Ask what changes would do; nothing is saved. */
export const attempt = (job_id: string, changes: Change[], version: number, focus: Focus, signal: AbortSignal) =>
  take(
    api.PATCH("/api/jobs/{job_id}", {
      params: { path: { job_id } },
      body: { edit_id: crypto.randomUUID(), version, epoch: "", seen: [], changes, focus, dry_run: true },
      signal,
    }) as Promise<Answer<JobState>>,
  );

export const said = (job: string, text: string, board: string | null) =>
  take(api.POST("/api/jobs/{job_id}/said", { ...ofJob(job), body: { text, board } }));

type RowsIn = paths["/api/jobs/{job_id}/said/rows"]["post"]["requestBody"]["content"]["application/json"];
export const saidRows = (job: string, body: RowsIn) =>
  take(api.POST("/api/jobs/{job_id}/said/rows", { ...ofJob(job), body }));

export const assumptions = (job: string, watch: Watch) =>
  search((signal) => watched.GET("/api/jobs/{job_id}/assumptions", { ...ofJob(job), signal }), watch);
export const curves = (job: string, circuit: string) =>
  take(api.GET("/api/jobs/{job_id}/circuits/{circuit_id}/curves", ofCircuit(job, circuit)));
export const breaks = (job: string, circuit: string, watch: Watch) =>
  search(
    (signal) => watched.GET("/api/jobs/{job_id}/circuits/{circuit_id}/breaks", { ...ofCircuit(job, circuit), signal }),
    watch,
  );
export const balanceBoard = (job_id: string, board_id: string) =>
  take(api.GET("/api/jobs/{job_id}/boards/{board_id}/balance", { params: { path: { job_id, board_id } } }));

export const copies = (job: string, watch: Watch) =>
  search((signal) => watched.GET("/api/jobs/{job_id}/copies", { ...ofJob(job), signal }), watch);
export const bookList = () => take(api.GET("/api/rules"));
export const beside = (job: string, book: string, watch: Watch) =>
  search(
    (signal) =>
      watched.GET("/api/jobs/{job_id}/beside", { params: { path: { job_id: job }, query: { book } }, signal }),
    watch,
  );
export type PackIn = Required<components["schemas"]["PackIn"]>;
export type PackLine = components["schemas"]["PackOut"];
export type RecheckLine = components["schemas"]["RecheckOut"];
export const listPacks = () => keptThere(take(api.GET("/api/packs")));
export const bringPack = (body: PackIn) => take(api.POST("/api/packs", { body }));
export const putPackAway = (mark: string) => take(api.DELETE("/api/packs/{mark}", { params: { path: { mark } } }));
export const packFile = (mark: string) => `/api/packs/${mark}/file`;
export const listRechecks = () => take(api.GET("/api/packs/rechecks"));
export type BesideOne = components["schemas"]["UnderBoth"];
export type BookLine = components["schemas"]["BookOut"];
export const addCopy = (job: string, body: { id: string; name: string; changes: Change[] }) =>
  take(api.POST("/api/jobs/{job_id}/copies", { ...ofJob(job), body }));
export const removeCopy = (job_id: string, copy_id: string) =>
  take(api.DELETE("/api/jobs/{job_id}/copies/{copy_id}", { params: { path: { job_id, copy_id } } }));

export const searchTables = (ruleset: string, words: string) =>
  take(api.GET("/api/rules/{ruleset}/search", { params: { path: { ruleset }, query: { words } } }));
export const cellsRead = (ruleset: string) =>
  keptThere(take(api.GET("/api/rules/{ruleset}/cells", { params: { path: { ruleset } } })));
