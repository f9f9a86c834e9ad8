import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

/** What the server says to each address; an address that is missing: no answer at all. */
const says = new Map<string, (request: Request) => Response | Promise<Response>>();
const json = (value: unknown, status = 200, headers = {}) =>
  new Response(JSON.stringify(value), { status, headers: { "Content-Type": "application/json", ...headers } });
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

const { Away, ApiError, Broken, look, reach, recallJob, signOut, who, working } = await import("./client");
const { issueJob, materials, paperFile, pullList } = await import("./site");
const { forgetBut } = await import("./kept");

const JOB = "00000000-0000-0000-0000-000000000001";
const session = (person: string) => ({ signed_in: person !== "", person, csrf: `token of ${person}`, name: person });
const signedIn = async (person: string) => {
  says.set("GET /api/session", () => json(session(person)));
  await who();
};
const settle = () => new Promise((done) => setTimeout(done, 20));

describe("what the page asks with and without a server", () => {
  beforeEach(async () => {
    vi.stubGlobal("fetch", served);
    says.clear();
    asked.length = 0;
    await forgetBut("");
    await signedIn("ann");
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({ version: 3, lines: [] }));
  });
  afterEach(settle);

  it("is what the server said last where there is none, and that is counted and told", async () => {
    expect(await pullList(JOB)).toEqual({ version: 3, lines: [] });
    await settle();
    expect(reach.get()).toBe(false);
    says.clear();
    const before = reach.stoodIn();
    expect(await pullList(JOB)).toEqual({ version: 3, lines: [] });
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
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({ message: "Not yours.", errors: [] }, 404));
    await expect(pullList(JOB)).rejects.toBeInstanceOf(ApiError);
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({}, 500));
    await expect(pullList(JOB)).rejects.toBeInstanceOf(Broken);
    // What a proxy says while the server starts is no answer.
    says.set(`GET /api/jobs/${JOB}/pulls`, () => json({}, 503));
    expect(await pullList(JOB)).toEqual({ version: 3, lines: [] });
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
    answer(json({ version: 4, lines: [] }));
    await asking;
    await settle();
    await signedIn("ann");
    says.clear();
    await expect(pullList(JOB)).rejects.toBeInstanceOf(Away);
  });

  it("gives a job back as it was last looked at, with its circuit where that was open", async () => {
    const signal = new AbortController().signal;
    says.set(`GET /api/jobs/${JOB}`, () => json({ id: JOB, version: 3, detail: null }));
    await look(JOB, null, null, signal);
    says.set(`GET /api/jobs/${JOB}`, () => json({ id: JOB, version: 3, detail: { id: "c" } }));
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
    const made = await paperFile(JOB, { paper: "schedule", form: "pdf", subject: "", revision: 0 }, watch);
    expect(made.name).toBe("a.pdf");
    expect(await made.file.text()).toBe("%PDF");
    expect(told).toHaveBeenCalledExactlyOnceWith({ share: 0.4, before: 1 });
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
      () => json({ version: 9, lines: [] }),
    ];
    says.set(about, () => (answers.shift() as () => Response)());
    const told: unknown[] = [];
    const stop = working.subscribe(() => told.push(working.get()));
    expect(await pullList(JOB)).toEqual({ version: 9, lines: [] });
    stop();
    expect(told).toEqual([{ share: 0, before: 2 }, { share: 0, before: 0 }, null]);
    // The way goes while it is waited for: what was kept stands in, and nothing is said to be worked on.
    says.set(about, () => {
      says.delete(about);
      return json({ share: 0, before: 0 }, 202);
    });
    expect(await pullList(JOB)).toEqual({ version: 9, lines: [] });
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
    const answers = [() => json({ share: 0, before: 0 }, 202), () => json({ number: 4 }, 201)];
    const sent: string[] = [];
    says.set(`POST /api/jobs/${JOB}/revisions`, async (request) => {
      sent.push(await request.text());
      return (answers.shift() as () => Response)();
    });
    expect(await issueJob(JOB, 7, "for the client")).toEqual({ number: 4 });
    expect(sent).toEqual(Array(2).fill(JSON.stringify({ version: 7, note: "for the client" })));
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
