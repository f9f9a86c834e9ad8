import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import shapes from "./shapes.gen.json";

/** What the server says to each address; an address that is missing: no answer at all. */
const says = new Map<string, (request: Request) => Response | Promise<Response>>();
const json = (value: unknown, status = 200, headers = {}) =>
  new Response(JSON.stringify(value), { status, headers: { "Content-Type": "application/json", ...headers } });
/** An answer as the API declares it, of which only a part matters here. */
const whole = (operation: keyof typeof shapes.of, part: object) => ({
  ...Object.fromEntries((shapes.shapes[shapes.of[operation]] as string[]).map((name) => [name, null])),
  ...part,
});
const pulled = (version: number) => whole("GET /api/jobs/{job_id}/pulls", { version, lines: [] });
const job = (detail: object | null) => whole("GET /api/jobs/{job_id}", { id: JOB, version: 3, detail });
const asked: string[] = [];

const served = async (request: Request) => {
  const at = `${request.method} ${new URL(request.url).pathname}`;
  asked.push(at);
  const answer = says.get(at);
  if (!answer) throw new TypeError("no way there");
  return answer(request);
};
vi.stubGlobal("fetch", served);
const Plain = Request;
vi.stubGlobal(
  "Request",
  class extends Plain {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, "http://here/") : input, init);
    }
  },
);

const { Away, ApiError, Broken, look, reach, recallJob, sendEdit, signOut, who, working } = await import("./client");
const { endsOf, issueJob, materials, paperFile, pullList } = await import("./site");
const { forgetBut, recall } = await import("./kept");
const { isWorkedHere, standIn, WORKED_HERE } = await import("./wire");
const { listJobs, said, sizeCircuit, isCutShort, signIn } = await import("./client");
const { local } = await import("../engine/local");

const JOB = "00000000-0000-0000-0000-000000000001";
const session = (person: string) =>
  whole("GET /api/session", { signed_in: person !== "", person, csrf: `token of ${person}`, name: person });
const signedIn = async (person: string) => {
  says.set("GET /api/session", () => json(session(person)));
  await who();
};
/** What a page is told, one after the other, when it says that it waits for something. */
const waitedFor = (...far: object[]) => {
  const addresses: string[] = [];
  says.set(`POST /api/jobs/${JOB}/searches`, async (request) => {
    addresses.push(((await request.json()) as { address: string }).address);
    return json(far.shift() ?? { share: 1, before: 0, done: true });
  });
  return addresses;
};
const settle = () => new Promise((done) => setTimeout(done, 20));

describe("what the page asks with and without a server", () => {
  beforeEach(async () => {
    vi.stubGlobal("fetch", served);
    says.clear();
    asked.length = 0;
    await forgetBut("");
    await signedIn("ann");
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json(pulled(3)));
  });
  afterEach(settle);

  it("is what the server said last where there is none, and that is counted and told", async () => {
    expect(await pullList(JOB)).toEqual(pulled(3));
    await settle();
    expect(reach.get()).toBe(false);
    says.clear();
    const before = reach.stoodIn();
    expect(await pullList(JOB)).toEqual(pulled(3));
    expect([reach.get(), reach.stoodIn()]).toEqual([true, before + 1]);
    await expect(materials(JOB)).rejects.toThrow("Needs a signal");
    await signedIn("ann");
    expect(reach.get()).toBe(false);
  });

  it("is shown to nobody else at the same browser", async () => {
    await pullList(JOB);
    await settle();
    await signedIn("bea");
    says.clear();
    await expect(pullList(JOB)).rejects.toBeInstanceOf(Away);
  });

  it("is a refusal where the server refuses, whatever was kept", async () => {
    await pullList(JOB);
    await settle();
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({ detail: "Not yours.", errors: [] }, 404));
    await expect(pullList(JOB)).rejects.toBeInstanceOf(ApiError);
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({}, 500));
    await expect(pullList(JOB)).rejects.toBeInstanceOf(Broken);
    // What a proxy says while the server starts is no answer.
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({}, 503));
    expect(await pullList(JOB)).toEqual(pulled(3));
  });

  it("knows who was there last, until they sign out", async () => {
    await settle();
    says.delete("GET /api/session");
    expect((await who()).person).toBe("ann");
    says.set("DELETE /api/session", () => json(session("")));
    await signOut();
    await expect(who()).rejects.toBeInstanceOf(Away);
  });

  it("keeps nothing of an answer that comes after somebody signed out", async () => {
    let answer = (_: Response) => {};
    const late = new Promise<Response>((done) => {
      answer = done;
    });
    says.set(`GET /api/jobs/${JOB}/pulls`, () => late as unknown as Response);
    says.set("DELETE /api/session", () => json(session("")));
    const asking = pullList(JOB);
    await signOut();
    answer(json(pulled(4)));
    await asking;
    await settle();
    await signedIn("ann");
    says.clear();
    await expect(pullList(JOB)).rejects.toBeInstanceOf(Away);
  });

  it("gives a job back as it was last looked at, with its circuit where that was open", async () => {
    const signal = new AbortController().signal;
    says.set(`GET /api/jobs/${JOB}`, () => json(job(null)));
    await look(JOB, null, null, signal);
    says.set(`GET /api/jobs/${JOB}`, () => json(job({ id: "c" })));
    await look(JOB, "c", null, signal);
    says.set(`GET /api/jobs/${JOB}`, () => new Response(null, { status: 304 }));
    expect(await look(JOB, "c", "tag", signal)).toBe("unchanged");
    await settle();
    expect(await recallJob(JOB, "c")).toMatchObject({ detail: { id: "c" } });
    expect(await recallJob(JOB, "d")).toMatchObject({ detail: null });
    expect(await recallJob("00000000-0000-0000-0000-000000000002", null)).toBeNull();
  });

  it("asks for a file until it is made, tells how far it is, and names it as the server does", async () => {
    const about = `GET /api/jobs/${JOB}/papers/schedule/pdf`;
    says.set(about, () => {
      says.set(about, () => new Response("%PDF", { headers: { "Content-Disposition": 'inline; filename="a.pdf"' } }));
      return json({ share: 0.4, before: 1 }, 202);
    });
    const told = vi.fn();
    const watch = { signal: new AbortController().signal, told };
    const addresses = waitedFor({ share: 0.7, before: 0, done: false });
    const made = await paperFile(JOB, { paper: "schedule", form: "pdf", subject: "", revision: 0 }, watch);
    expect(addresses).toEqual(Array(2).fill(`/api/jobs/${JOB}/papers/schedule/pdf?subject=&revision=0`));
    expect(made.name).toBe("a.pdf");
    expect(await made.file.text()).toBe("%PDF");
    expect(told.mock.calls).toEqual([[{ share: 0.4, before: 1 }], [{ share: 0.7, before: 0 }]]);
    says.clear();
    await expect(paperFile(JOB, { paper: "schedule", form: "pdf", subject: "", revision: 0 }, watch)).rejects.toThrow(
      "Needs a signal",
    );
  });

  it("waits for what is worked out apart, tells how many are before it, and hands on the answer alone", async () => {
    const about = `GET /api/jobs/${JOB}/pulls`;
    const answers = [
      () => json({ share: 0, before: 2 }, 202),
      () => json({ share: 0, before: 0 }, 202),
      () => json(pulled(9)),
    ];
    says.set(about, () => (answers.shift() as () => Response)());
    const told: unknown[] = [];
    const stop = working.subscribe(() => told.push(working.get()));
    // It changed meanwhile: what was waited for first is not what it is told in the end.
    const addresses = waitedFor({ share: 0, before: 1, done: false });
    expect(await pullList(JOB)).toEqual(pulled(9));
    stop();
    expect(told).toEqual([{ share: 0, before: 2 }, { share: 0, before: 1 }, { share: 0, before: 0 }, null]);
    expect(addresses).toEqual(Array(3).fill(`/api/jobs/${JOB}/pulls`));
    expect(asked.filter((one) => one.startsWith("GET") && one.endsWith("pulls"))).toHaveLength(3);
    // The way goes while it is waited for: what was kept stands in, and nothing is said to be worked on.
    says.set(about, () => {
      says.delete(about);
      return json({ share: 0, before: 0 }, 202);
    });
    expect(await pullList(JOB)).toEqual(pulled(9));
    expect(working.get()).toBeNull();
  });

  it("tells what is refused while it waits, instead of asking on and on", async () => {
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({ share: 0, before: 0 }, 202));
    says.set(`GET /api/jobs/${JOB}/papers/schedule/pdf`, () => json({ share: 0, before: 0 }, 202));
    says.set(`GET /api/jobs/${JOB}/circuits/${JOB}/size`, () => json({ share: 0, before: 0 }, 202));
    says.set(`POST /api/jobs/${JOB}/searches`, () => json({ detail: "Sign in again.", errors: [] }, 403));
    const watch = { signal: new AbortController().signal, told: vi.fn() };
    for (const asking of [
      () => pullList(JOB),
      () => paperFile(JOB, { paper: "schedule", form: "pdf", subject: "", revision: 0 }, watch),
      () => sizeCircuit(JOB, JOB, watch),
    ]) {
      asked.length = 0;
      await expect(asking()).rejects.toMatchObject({ status: 403, refusal: { detail: "Sign in again." } });
      expect(asked).toHaveLength(2);
    }
    expect(working.get()).toBeNull();
  });

  it("gives up waiting for a look that nobody wants any more, and keeps nothing of it", async () => {
    const leaving = new AbortController();
    says.set(`GET /api/jobs/${JOB}`, () => json({ share: 0, before: 0 }, 202));
    const looking = look(JOB, null, null, leaving.signal);
    await settle();
    leaving.abort();
    vi.stubGlobal("fetch", async (request: Request) => {
      request.signal.throwIfAborted();
      return served(request);
    });
    await expect(looking).rejects.toBeInstanceOf(Away);
    expect(working.get()).toBeNull();
    expect(await recallJob(JOB, null)).toBeNull();
  });

  it("asks for a revision of a large job until it is made, each time for the same", async () => {
    const revision = whole("POST /api/jobs/{job_id}/revisions", { number: 4 });
    const answers = [() => json({ share: 0, before: 0 }, 202), () => json(revision, 201)];
    const sent: string[] = [];
    says.set(`POST /api/jobs/${JOB}/revisions`, async (request) => {
      sent.push(await request.text());
      return (answers.shift() as () => Response)();
    });
    expect(await issueJob(JOB, 7, "for the client")).toEqual(revision);
    expect(sent).toEqual(Array(2).fill(JSON.stringify({ version: 7, note: "for the client" })));
  });

  it("takes what stands in for the server on the way as no answer, and nothing leaves the outbox for it", async () => {
    const edit = { edit_id: JOB, version: 3, epoch: "", seen: [], changes: [], focus: null };
    const send = () => sendEdit(JOB, edit, new AbortController().signal);
    const page = (status: number) => new Response("<html>", { status, headers: { "Content-Type": "text/html" } });
    const stranger = [
      () => json({}),
      () => json([]),
      () => json(null),
      () => json({ ...job(null), epoch: undefined }),
      () => page(200),
      () => page(403),
      () => page(404),
      () => page(409),
      () => json({ clashes: [] }, 409),
      () => json({ clashes: [], state: {} }, 409),
      () => json({ error: "no" }, 422),
      () => json("nonsense", 400),
      () => page(502),
    ];
    for (const [i, said] of stranger.entries()) {
      says.set(`PATCH /api/jobs/${JOB}`, said);
      await expect(send(), `${i}`).rejects.toBeInstanceOf(Away);
      expect(reach.get()).toBe(true);
    }
    for (const list of [() => json({}), () => json("")]) {
      says.set(`GET /api/jobs/${JOB}/ends`, list);
      await expect(endsOf(JOB)).rejects.toBeInstanceOf(Away);
    }
    says.set(`PATCH /api/jobs/${JOB}`, () => json({ detail: "Not accepted.", errors: [] }, 422));
    await expect(send()).rejects.toBeInstanceOf(ApiError);
    says.set(`PATCH /api/jobs/${JOB}`, () => json({ clashes: [], state: job(null) }, 409));
    expect(await send()).toMatchObject({ is: "clashed" });
    says.set(`PATCH /api/jobs/${JOB}`, () => json(job(null)));
    expect(await send()).toMatchObject({ is: "landed" });
  });

  it("goes out with the token that came with who is there", async () => {
    let sent: string | null = null;
    says.set("DELETE /api/session", () => json(session("")));
    const { api } = await import("./wire");
    api.use({
      onRequest({ request }) {
        sent = request.headers.get("X-CSRFToken");
      },
    });
    await signOut();
    expect(sent).toBe("token of ann");
  });
});

describe("the list of jobs with no server", () => {
  const OTHER = "00000000-0000-0000-0000-000000000002";
  const state = (id: string, name: string, verdicts: string[]) =>
    whole("GET /api/jobs/{job_id}", {
      id,
      version: 3,
      installation: { name, client: "the crofter", place: "Larch Lane" },
      summaries: verdicts.map((verdict) => ({ verdict })),
      trouble: "",
    });
  const line = (id: string, name: string) => ({ id, name, client: "", place: "", issued: 2 });
  const lookAt = async (id: string, name: string, verdicts: string[] = []) => {
    says.set(`GET /api/jobs/${id}`, () => json(state(id, name, verdicts)));
    await look(id, null, null, new AbortController().signal);
  };

  beforeEach(async () => {
    vi.stubGlobal("fetch", served);
    says.clear();
    await forgetBut("");
    await signedIn("ann");
  });
  afterEach(settle);

  it("is that of the jobs that open here, as they were told of last or last looked at", async () => {
    const page = whole("GET /api/jobs", { jobs: [line(JOB, "Mill Lane"), line("x", "never opened here")], total: 2 });
    says.set("GET /api/jobs", () => json(page));
    await listJobs();
    await lookAt(JOB, "Mill Lane");
    await lookAt(OTHER, "Larch Croft", ["short", "meets", "close", "not_known", "short"]);
    await settle();
    says.clear();
    const found = await listJobs();
    expect(found).toMatchObject({ total: 2, page: 1, pages: 1 });
    expect(found.jobs.find((one) => one.id === JOB)).toMatchObject({ name: "Mill Lane", issued: 2 });
    expect(found.jobs.find((one) => one.id === OTHER)).toMatchObject({
      name: "Larch Croft",
      circuits: 5,
      short: 2,
      close: 1,
      not_known: 1,
      version: 3,
    });
    expect(reach.get()).toBe(true);
    expect((await listJobs("croft")).jobs.map((one) => one.id)).toEqual([OTHER]);
    expect((await listJobs("larch LANE")).jobs.map((one) => one.id)).toEqual([OTHER]);
    expect((await listJobs("nowhere")).jobs).toEqual([]);
    await expect(listJobs("", true)).rejects.toThrow("Needs a signal");
    await expect(listJobs("", false, 1, true)).rejects.toThrow("Needs a signal");
  });

  it("is none where nothing is kept, and nobody else's", async () => {
    says.clear();
    await expect(listJobs()).rejects.toBeInstanceOf(Away);
    await lookAt(JOB, "Mill Lane");
    await settle();
    await signedIn("bea");
    says.clear();
    await expect(listJobs()).rejects.toBeInstanceOf(Away);
  });
});

describe("a device that answers in the place of a server that is away", () => {
  const questions: { method: string; address: string; path: object; query: object; body: unknown }[] = [];
  /** What the device says; undefined: it cannot. */
  let here: ((address: string) => Response | null) | null;

  beforeEach(async () => {
    vi.stubGlobal("fetch", served);
    says.clear();
    asked.length = 0;
    questions.length = 0;
    here = () => json(pulled(9), 200, { [WORKED_HERE]: "yes" });
    standIn.ask = async (question) => {
      questions.push(question);
      return here?.(question.address) ?? null;
    };
    await forgetBut("");
    await signedIn("ann");
    says.clear();
  });
  afterEach(async () => {
    standIn.ask = async () => null;
    await settle();
  });

  it("is asked with what stands in the address, and its answer is no word of the server", async () => {
    const found = await pullList(JOB);
    expect(found.version).toBe(9);
    expect(questions).toEqual([
      { method: "GET", address: "/api/jobs/{job_id}/pulls", path: { job_id: JOB }, query: {}, body: undefined },
    ]);
    expect(isWorkedHere(found)).toBe(true);
    expect(reach.get()).toBe(true);
    await settle();
    expect(await recall("ann", `${JOB}/pulls`)).toBeUndefined();
  });

  it("gives way to the server, and to what the server said last where it cannot answer", async () => {
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json(pulled(3)));
    expect(isWorkedHere(await pullList(JOB))).toBe(false);
    expect(questions).toEqual([]);
    expect(reach.get()).toBe(false);
    await settle();
    says.clear();
    here = null;
    expect((await pullList(JOB)).version).toBe(3);
    expect(reach.get()).toBe(true);
  });

  it("is asked as well where a proxy says that nobody is there, but not of what the server refuses or fails over", async () => {
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({}, 503));
    expect((await pullList(JOB)).version).toBe(9);
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({ detail: "Not yours.", errors: [] }, 404));
    await expect(pullList(JOB)).rejects.toBeInstanceOf(ApiError);
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({}, 500));
    await expect(pullList(JOB)).rejects.toBeInstanceOf(Broken);
    expect(questions).toHaveLength(1);
  });

  it("refuses as the server would, at the field", async () => {
    const errors = [{ field: "csa", given: "x", allowed: "a size", message: "x is not allowed here." }];
    here = () => json({ detail: "csa: x", errors }, 422, { [WORKED_HERE]: "yes" });
    await expect(pullList(JOB)).rejects.toMatchObject({ status: 422, refusal: { errors } });
  });

  it("says what it did not look through", async () => {
    const sizing = whole("GET /api/jobs/{job_id}/circuits/{circuit_id}/size", {});
    here = () => json(sizing, 200, { [WORKED_HERE]: "yes", "Search-Cut-Short": "yes" });
    const found = await sizeCircuit(JOB, JOB, { signal: new AbortController().signal, told: () => {} });
    expect(isCutShort(found)).toBe(true);
  });

  it("reads lines, with what was typed", async () => {
    here = () => json([], 200, { [WORKED_HERE]: "yes" });
    await said(JOB, "shower 9kW", null);
    expect(questions[0]).toMatchObject({
      method: "POST",
      address: "/api/jobs/{job_id}/said",
      body: { text: "shower 9kW", board: null },
    });
  });

  it("is never asked to keep anything, who is there, or for what it needs itself", async () => {
    const edit = { edit_id: JOB, version: 1, epoch: "", seen: [], changes: [], focus: null };
    const signal = new AbortController().signal;
    await expect(sendEdit(JOB, edit, signal)).rejects.toBeInstanceOf(Away);
    await expect(issueJob(JOB, 1, "")).rejects.toBeInstanceOf(Away);
    await expect(signIn("ann", "x")).rejects.toBeInstanceOf(Away);
    await expect(look(JOB, null, null, signal)).rejects.toBeInstanceOf(Away);
    await expect(local.bring(JOB)).rejects.toBeInstanceOf(Away);
    expect(questions).toEqual([]);
  });
});
