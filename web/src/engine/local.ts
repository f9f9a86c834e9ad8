import { type Remote as Linked, proxy, releaseProxy, wrap } from "comlink";
import { recall } from "../api/kept";
import type { components } from "../api/schema";
import type { Change, JobState } from "../api/types";
import { Away, api, kept, ofJob, reach, here as signedIn, standIn, take, WORKED_HERE } from "../api/wire";
import { applied } from "../sync/changes";
import { remembered } from "../ui/remembered";
import type { LocalWorker } from "./local-worker";
import { isCutOff, isSpared } from "./spared";

/** What of a job's state is worked out; the rest is the server's to say. */
export type Figures = Pick<
  JobState,
  "edition" | "summaries" | "attention" | "steps" | "detail" | "profile" | "paths" | "trouble" | "stage"
>;
type Kit = components["schemas"]["Kit"];

/** asleep: nobody needed it yet; old: the server goes by another program by now; off: switched off here. */
export type Phase = "off" | "asleep" | "loading" | "ready" | "old" | "failed";
/** A job as it stands in this tab, and what of its log is not sent yet. */
interface Open {
  server: JobState;
  changes: readonly Change[];
}
/** A job as it was laid up last, and the changes made in it since. */
interface Laid {
  mark: string;
  kit: Kit;
  server: JobState;
  changes: readonly Change[];
}
interface LogEntry {
  id: string;
  kind: string;
  subject: string | null;
  data: Record<string, unknown>;
  at: string;
  by?: string;
}

interface Found {
  status: number;
  body: unknown;
  cut: boolean;
  file?: boolean;
}
interface File {
  text: string;
  type: string;
  name: string;
}

const fileOf = ({ text, type, name }: File) =>
  new Response(text, {
    headers: { "Content-Type": type, "Content-Disposition": `attachment; filename="${name}"`, [WORKED_HERE]: "yes" },
  });

const SWITCH = "mellow-span/works-here";
/** Where the runtime lies, by what is in it. */
declare const __RUNTIME__: string;
const STEPS = 3;
/** A worker that says nothing for so long is gone: put to sleep, out of memory, ended by the browser [ms]. Loading it takes longer on a slow device. */
const PATIENCE = 60_000;
const LOADING = 300_000;

/** The program on this device: it answers what the server answers, from what is laid up here. */
class LocalEngine {
  private link: Linked<LocalWorker> | null = null;
  private worker: Worker | null = null;
  private waking: Promise<boolean> | null = null;
  private jobs = new Map<string, Open>();
  private waiting = new Map<string, readonly LogEntry[]>();
  private kits = new Map<string, Kit>();
  private before: Promise<void> = Promise.resolve();
  private laid = new Map<string, Laid>();
  private logs = new Map<string, string>();
  private listeners = new Set<() => void>();
  private program = "";
  /** How often it was ended: what was begun before is of another round. */
  private round = 0;
  private now: { phase: Phase; done: number } = { phase: isOff() ? "off" : "asleep", done: 0 };

  get = () => this.now;
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };
  private is(phase: Phase, done = 0) {
    this.now = { phase, done: done / STEPS };
    for (const listener of this.listeners) listener();
  }

  /** Load it, once. Says whether it is there. */
  wake(): Promise<boolean> {
    if (this.now.phase === "off" || this.now.phase === "old" || typeof Worker === "undefined")
      return Promise.resolve(false);
    this.waking ??= this.start();
    return this.waking;
  }

  private async start(): Promise<boolean> {
    this.is("loading");
    // Switched off, or somebody else's, while it was under way: what comes of it is nobody's any more.
    const mine = this.round;
    try {
      const { program, archive } = await kept("engine", () => take(api.GET("/api/engine")));
      if (mine !== this.round) return false;
      this.worker = new Worker(new URL("./local-worker.ts", import.meta.url), { type: "module" });
      this.worker.onerror = () => this.fail();
      this.link = wrap<LocalWorker>(this.worker);
      const step = proxy((done: number) => mine === this.round && this.is("loading", done));
      await patient(
        this.link.start(new URL(__RUNTIME__, location.href).href, new URL(archive, location.href).href, step),
        LOADING,
      );
      if (mine !== this.round) return false;
      this.program = program;
      this.is("ready", STEPS);
      return true;
    } catch {
      if (mine === this.round) this.fail();
      return false;
    }
  }

  /** It is gone, with what was laid up in it. The page goes on with the server alone, and may load it again. */
  private fail() {
    this.end();
    this.is("failed");
  }

  private end() {
    this.round += 1;
    this.before = Promise.resolve();
    this.link?.[releaseProxy]();
    this.worker?.terminate();
    this.link = this.worker = this.waking = null;
    this.laid.clear();
    this.logs.clear();
  }

  /** Switch it off on this device, or on again. */
  turn(on: boolean) {
    remembered.set(SWITCH, on ? null : "off");
    this.end();
    this.is(on ? "asleep" : "off");
    if (on) void this.wake();
  }

  /** Somebody else is there: nothing of whoever was there before stays in it. */
  forget() {
    this.jobs.clear();
    this.waiting.clear();
    this.kits.clear();
    if (this.waking) {
      this.end();
      this.is("asleep");
    }
  }

  get ready() {
    return this.now.phase === "ready";
  }

  /** How a job stands in this tab: what questions about it are asked of. */
  stands(job: string, server: JobState, changes: readonly Change[]) {
    this.jobs.set(job, { server, changes });
  }

  /** What was written down on site and is not sent yet. */
  writes(job: string, waiting: readonly LogEntry[], by: string) {
    this.waiting.set(
      job,
      waiting.map((e) => ({ ...e, by })),
    );
  }

  closes(job: string) {
    this.jobs.delete(job);
    this.waiting.delete(job);
  }

  /** The figures of a job with changes that are not answered yet; null where they cannot be had here. */
  async figures(
    job: string,
    server: JobState,
    changes: readonly Change[],
    focus: string | null,
  ): Promise<Figures | null> {
    return this.trusting(async (link) => {
      await this.lay(link, job, server);
      const text = await patient(link.figures(job, JSON.stringify(changes), focus ?? ""));
      const found = text === null ? null : JSON.parse(text);
      const laid = this.laid.get(job);
      // One that cannot be made leaves what is there as it was.
      if (laid && found && !("refused" in found)) laid.changes = changes;
      return found && !("refused" in found) ? (found as Figures) : null;
    });
  }

  /** Answer a question of the API in the place of the server; null where it cannot be answered here. */
  async ask(question: { method: string; address: string; path: object; query: object; body: unknown }) {
    const job = (question.path as { job_id?: string }).job_id ?? this.jobs.keys().next().value ?? "";
    return this.trusting(async (link) => {
      const open = this.jobs.get(job);
      if (open) {
        await this.lay(link, job, open.server);
        await this.layLog(link, job);
      }
      const text = await patient(link.ask(JSON.stringify({ ...question, job, changes: open?.changes ?? [] })));
      const found = text === null ? null : (JSON.parse(text) as Found);
      if (!found || found.status === 0) return null;
      if (found.file) return fileOf(found.body as File);
      const headers = {
        "Content-Type": "application/json",
        [WORKED_HERE]: "yes",
        ...(found.cut && { "Search-Cut-Short": "yes" }),
      };
      return new Response(JSON.stringify(found.body), { status: found.status, headers });
    });
  }

  /** Do something with it where it is there, one thing after the other; what it cannot do, nobody has. */
  private trusting<T>(what: (link: Linked<LocalWorker>) => Promise<T | null>): Promise<T | null> {
    // A job is laid up and asked about in two steps: nothing may come between them.
    const mine = this.before.then(() => this.attempt(what));
    this.before = mine.then(() => undefined);
    return mine;
  }

  private async attempt<T>(what: (link: Linked<LocalWorker>) => Promise<T | null>): Promise<T | null> {
    if (!this.ready || !this.link) return null;
    const mine = this.round;
    try {
      return await what(this.link);
    } catch (error) {
      if (error instanceof Slow) {
        // Of one that was ended meanwhile nothing is expected.
        if (mine === this.round) this.fail();
      } else if (!(error instanceof Away)) console.warn("not worked out on this device", error);
      return null;
    }
  }

  private async lay(link: Linked<LocalWorker>, job: string, server: JobState) {
    const known = this.laid.get(job);
    const mark = `${server.tag} ${server.landed ?? ""}`;
    if (known?.mark === mark) return;
    const kit = this.kits.get(job) ?? (await this.bring(job));
    // Mostly the server says what is there already: what was changed here has landed.
    if (known && this.kits.get(job) === known.kit && lands(known, server))
      await patient(link.land(job, JSON.stringify(known.changes), server.version));
    else {
      const text = JSON.stringify({ installation: server.installation, version: server.version, kit });
      await patient(link.lay(job, text));
      this.logs.delete(job);
    }
    this.laid.set(job, { mark, kit, server, changes: [] });
  }

  /**
   * Bring what goes with a job, and use it from then on. What was kept when the server worked by an earlier program holds data alone, and is as good; a
   * server that says now that it works by another one has other figures than this device.
   */
  async bring(job: string): Promise<Kit> {
    let now = false;
    const kit = await kept(`${job}/kit`, async () => {
      const found = await take(api.GET("/api/jobs/{job_id}/kit", ofJob(job)));
      now = true;
      return found;
    });
    if (now && this.program && kit.program !== this.program) {
      this.end();
      this.is("old");
      throw new Away("This page works by other rules than the server.");
    }
    if (JSON.stringify(kit) !== JSON.stringify(this.kits.get(job))) this.laid.delete(job);
    this.kits.set(job, kit);
    return kit;
  }

  private async layLog(link: Linked<LocalWorker>, job: string) {
    const known = (await recall(signedIn.person, `${job}/site`)) as { entries: LogEntry[] } | undefined;
    const there = new Set(known?.entries.map((e) => e.id));
    const fresh = (this.waiting.get(job) ?? []).filter((e) => !there.has(e.id));
    const entries = [...(known?.entries ?? []), ...fresh].map(({ subject, data, ...e }) => {
      // Pictures are looked at by people.
      const { image: _, ...rest } = data as { image?: unknown };
      return { ...e, by: e.by ?? "", subject: subject ?? "", data: e.kind === "photo" ? rest : data };
    });
    const text = JSON.stringify(entries);
    if (this.logs.get(job) === text) return;
    await patient(link.log(job, text));
    this.logs.set(job, text);
  }

  /** Tell the server that figures worked out here are not its own. Its own stand. */
  differs(job: string, version: number, where: string[]) {
    const body = { version, program: this.program, where: where.slice(0, 50) };
    void take(api.POST("/api/jobs/{job_id}/difference", { ...ofJob(job), body })).catch(() => undefined);
  }
}

/** Whether a state of the server is what was laid up with what was changed since. */
function lands({ server, changes }: Laid, now: JobState): boolean {
  return JSON.stringify(applied(server.installation, changes)) === JSON.stringify(now.installation);
}

/** The worker did not answer in time. */
class Slow extends Error {}

function patient<T>(answer: Promise<T>, most = PATIENCE): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Slow()), most);
  });
  return Promise.race([answer, late]).finally(() => clearTimeout(timer));
}

function isOff() {
  return remembered.get(SWITCH) === "off";
}

export const local = new LocalEngine();

standIn.ask = (question) => local.ask(question);
/** Without a server it is needed now; where only the server is away, nothing is fetched over a connection that is spared. */
reach.subscribe(() => {
  if (reach.get() && (isCutOff() || !isSpared())) void local.wake();
});
