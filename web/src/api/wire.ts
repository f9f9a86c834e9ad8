import createClient from "openapi-fetch";
import { keep, recall } from "./kept";
import type { components, paths } from "./schema";
import shapes from "./shapes.gen.json";
import type { Refusal } from "./types";

/** The only caller of fetch. The token comes with the answer to "who am I" and goes with every change. */
export const here = { token: "", person: "", partings: 0 };

export type Searching = components["schemas"]["Searching"];
/** How long a page waits before it asks again. What nobody asks for is given up. */
export const ASK_AGAIN = 400;

/** Whether something of a large job is worked out apart just now, and how many others are before it; for whoever wants to say so. */
export const working = (() => {
  let now: Searching | null = null;
  const listeners = new Set<() => void>();
  return {
    get: () => now,
    subscribe: (listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    is(found: Searching | null) {
      now = found;
      for (const listener of listeners) listener();
    },
  };
})();

/** Asks that wait while the server works apart on what a large job asks for: whoever asked gets the answer, later. */
export const api = createClient<paths>({ baseUrl: "/" });
/** The same for who wants to be told how far it is: what is worked on comes as that. */
export const watched = createClient<paths>({ baseUrl: "/" });
const waits = new Set<Request>();
/** What each answer is to, and where it was asked for. */
const asked = new WeakMap<Response, string>();
const places = new WeakMap<Response, string>();
export const placeOf = (answer: Response) => places.get(answer);
/** What is said of an answer that was worked out on this device. */
export const WORKED_HERE = "X-Worked-Here";
interface Question {
  method: string;
  address: string;
  path: object;
  query: object;
  body: unknown;
}
/** Whoever can answer in the place of a server that is away: the program on this device, once it is there. */
export const standIn: { ask: (question: Question) => Promise<Response | null> } = { ask: async () => null };
/** What is posted and changes nothing: it can be asked of this device as well. */
const ASKS = [
  "/api/jobs/{job_id}/said",
  "/api/jobs/{job_id}/said/rows",
  "/api/practice/exercises",
  "/api/practice/marks",
];
/** What it needs before it can answer, and what it knows that it cannot. */
const NOT_HERE = ["/api/engine", "/api/jobs/{job_id}/kit", "/api/jobs/{job_id}", "/api/session"];
const bodies = new WeakMap<Request, Request>();
interface Failed {
  request: Request;
  schemaPath: string;
  params: { path?: object; query?: object };
}

async function inPlace({ request, schemaPath: address, params }: Failed): Promise<Response | undefined> {
  const method = request.method;
  if (request.signal.aborted || NOT_HERE.includes(address) || (method !== "GET" && !ASKS.includes(address)))
    return undefined;
  const body = await bodies.get(request)?.json();
  return (
    (await standIn.ask({ method, address, path: params.path ?? {}, query: params.query ?? {}, body })) ?? undefined
  );
}

for (const client of [api, watched])
  client.use({
    onRequest({ request, schemaPath }) {
      if (request.method !== "GET") request.headers.set("X-CSRFToken", here.token);
      if (ASKS.includes(schemaPath)) bodies.set(request, request.clone());
      return request;
    },
    onError: inPlace,
    async onResponse({ request, response, schemaPath, params }) {
      const instead = ABSENT.includes(response.status) ? await inPlace({ request, schemaPath, params }) : undefined;
      asked.set(instead ?? response, `${request.method} ${schemaPath}`);
      if (request.method === "GET") places.set(response, request.url);
      return instead;
    },
  });

/**
 * Wait for what an address of a job was answered 202 for: a look begins nothing and keeps nothing going, so it is posted that somebody waits, now
 * and again until it is there. Returns a refusal, where it is refused; with no answer the address is asked again, which says why.
 */
export async function awaited(
  place: string | undefined,
  signal: AbortSignal,
  told: (progress: Searching) => void,
): Promise<Response | undefined> {
  for (;;) {
    const answer = place === undefined ? null : await followed(new URL(place), signal);
    if (answer && answer.status >= 400 && answer.status < 500) return answer;
    const far = answer?.status === 200 ? ((await answer.json()) as components["schemas"]["Followed"]) : null;
    if (far?.done) return undefined;
    if (far) told({ share: far.share, before: far.before });
    await new Promise((wake) => setTimeout(wake, ASK_AGAIN));
    signal.throwIfAborted();
    if (!far) return undefined;
  }
}

async function followed({ origin, pathname, search }: URL, signal: AbortSignal) {
  const job = pathname.split("/").slice(0, 4).join("/");
  const headers = { "Content-Type": "application/json", "X-CSRFToken": here.token };
  const body = JSON.stringify({ address: pathname + search });
  try {
    return await fetch(new Request(`${origin}${job}/searches`, { method: "POST", headers, body, signal }));
  } catch {
    return null;
  }
}

api.use({
  async onResponse({ request, response }) {
    let last = response;
    try {
      while (last.status === 202) {
        waits.add(request);
        working.is((await last.json()) as Searching);
        const refused = await awaited(request.url, request.signal, working.is);
        last = refused ?? (await fetch(new Request(request.url, { headers: request.headers, signal: request.signal })));
      }
    } finally {
      if (waits.delete(request) && waits.size === 0) working.is(null);
    }
    return last;
  },
});

/** What a page reads of a refusal; what this device refuses by itself has no more. */
export type Told = Pick<Refusal, "detail" | "errors">;

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly refusal: Told,
  ) {
    super(refusal.detail);
  }
}

/** Thrown when no answer came at all: the server or the way to it is gone. */
export class Away extends Error {}

/** Thrown when the server failed over what it was asked. */
export class Broken extends Error {}

/** What a proxy or a server that is starting says: the same as no answer. */
const ABSENT = [502, 503, 504];
/** Said before the API is reached, of more than is taken in at once. */
const TOO_LARGE = 413;

const SHAPES: readonly (string | string[])[] = shapes.shapes;
const shapeOf = (operation: string) => SHAPES[(shapes.of as Record<string, number>)[operation] ?? -1];

/** Whether something is what the API says it answers; nothing is known of what is no JSON. operation: as "GET /api/jobs". */
export function declared(operation: string, data: unknown): boolean {
  const shape = shapeOf(operation);
  if (shape === undefined) return true;
  if (typeof shape === "string") return Array.isArray(data);
  return typeof data === "object" && data !== null && shape.every((name) => name in data);
}

/** Whether an answer comes from the API, not from something on the way that stands in for it: a hotel's page, a proxy's excuse. */
function fromServer({ data, error, response }: Answer<unknown>): boolean {
  if (response.ok) return response.status === 202 || declared(asked.get(response) ?? "", data);
  if (response.status >= 500 || response.status === TOO_LARGE) return true;
  return typeof (error as Told | undefined)?.detail === "string";
}

const foundHere = new WeakSet<object>();
/** Whether an answer was worked out on this device, not by the server. */
export const isWorkedHere = (found: unknown) => typeof found === "object" && found !== null && foundHere.has(found);

export type Answer<T> = { data?: T; error?: unknown; response: Response };

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

const WAITS = "Needs a signal: it has not been opened on this device before.";

/** Ask, and keep the answer on this device; with no server the one kept last stands in for it. about: what is asked, of a job beginning with its identity. */
export async function kept<T>(about: string, ask: () => Promise<T>): Promise<T> {
  const mine = here.person;
  try {
    const found = await ask();
    // Of somebody who signed out meanwhile nothing is kept; what was worked out here is not what the server said.
    if (mine && mine === here.person && !isWorkedHere(found)) void keep(mine, about, found);
    return found;
  } catch (error) {
    if (!(error instanceof Away)) throw error;
    const found = await recall(mine, about);
    if (found === undefined) throw new Away(WAITS);
    reach.is(true, true);
    return found as T;
  }
}

/** Something that only the server has or does: without it, it waits, and says why. */
const needing =
  (why: string) =>
  async <T>(ask: Promise<T>): Promise<T> => {
    try {
      return await ask;
    } catch (error) {
      throw error instanceof Away ? new Away(`Needs a signal: ${why}.`) : error;
    }
  };
export const waiting = needing("the server works this out");
export const keptThere = needing("the server keeps this");

/** The answer itself: what is still worked on is waited for before it comes here. */
export const take = <T>(call: Promise<Answer<T>>) => taken(call) as Promise<Exclude<T, Searching>>;

async function taken<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch (error) {
    // Whoever no longer wants to know has not found out anything.
    if (!(error instanceof DOMException && error.name === "AbortError")) reach.is(true);
    throw new Away("The server cannot be reached.");
  }
  if (ABSENT.includes(answer.response.status) || !fromServer(answer)) {
    reach.is(true);
    throw new Away("The server cannot be reached.");
  }
  const workedHere = answer.response.headers.get(WORKED_HERE) !== null;
  reach.is(workedHere, workedHere);
  if (workedHere && typeof answer.data === "object" && answer.data !== null) foundHere.add(answer.data);
  if (answer.response.ok) return answer.data as T;
  if (answer.response.status >= 500) throw new Broken("The server has a fault.");
  const refusal = answer.error as Told | undefined;
  throw new ApiError(answer.response.status, refusal?.detail ? refusal : { detail: "Not accepted.", errors: [] });
}

/** Who asks for a search: told how far it is, until it no longer wants to know. */
export interface Watch {
  signal: AbortSignal;
  told: (progress: Searching) => void;
}

const cutShort = new WeakSet<object>();
/** Whether a search ended before all was tried. */
export const isCutShort = (found: unknown) => typeof found === "object" && found !== null && cutShort.has(found);

/** What was refused while it was waited for, as an answer to what was asked. */
export const asRefused = async (refused: Response): Promise<Answer<never>> => ({
  error: await refused.json().catch(() => undefined),
  response: refused,
});

export function search<T>(ask: (signal: AbortSignal) => Promise<Answer<T | Searching>>, watch: Watch) {
  return waiting(searching(ask, watch));
}

async function searching<T>(
  ask: (signal: AbortSignal) => Promise<Answer<T | Searching>>,
  { signal, told }: Watch,
): Promise<Exclude<T, Searching>> {
  for (;;) {
    let last: Response | undefined;
    const found = await taken(
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
    const refused = await awaited(placeOf(last), signal, told);
    if (refused) await taken(asRefused(refused));
  }
}

/** The name a file is saved under, as its answer says. */
export const nameIn = (response: Response) =>
  /filename="([^"]+)"/.exec(response.headers.get("Content-Disposition") ?? "")?.[1] ?? "";

/** Parts of addresses. */
export const ofJob = (job_id: string) => ({ params: { path: { job_id } } });
export const ofCircuit = (job_id: string, circuit_id: string) => ({ params: { path: { job_id, circuit_id } } });
