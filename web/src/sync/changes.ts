import defaults from "../api/defaults.gen.json";
import type { Cable, Change, Circuit, Device, Installation, Kind, Load, Run, Span } from "../api/types";
import { befores as known, letGo } from "./legs";
import { whyNoPlan, withoutStage } from "./stages";

/**
 * The mirror of the core's algebra of change: what is typed shows at once, before any figure comes back. It is held against golden files
 * the core writes. Values are judged by the server alone; here only the shape of the job is: what a change needs must be there.
 */
export class Refused extends Error {
  constructor(
    readonly field: string,
    readonly allowed: string,
  ) {
    super(`${field}: ${allowed}`);
  }
}

/** What each span goes on from; refused where one names none. */
function befores(spans: readonly Span[]) {
  const found = known(spans);
  if (!found) throw new Refused("after", "a span before it in the list, or the board");
  return found;
}

/** Lay changes over an installation; one that the shape of the job refuses is left out. */
export function applied(inst: Installation, changes: readonly Change[]): Installation {
  let now = inst;
  for (const change of changes) {
    try {
      now = apply(now, change);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
    }
  }
  return now;
}

/** Lay one change over an installation. Throws Refused where the shape of the job does not allow it. */
export function apply(inst: Installation, change: Change): Installation {
  const next = DO[change.op](inst, change);
  const why = next.stages.length > 0 ? whyNoPlan(next) : "";
  if (why) throw new Refused("stage", why);
  return next;
}

type Fields = Record<string, unknown>;
interface Identified {
  id: string;
}

const LISTS = { board: "boards", route: "routes", stage: "stages", dismissal: "dismissals" } as const;
type Listed = keyof typeof LISTS;
const isListed = (kind: Kind): kind is Listed => kind in LISTS;
const isSingle = (kind: Kind) => kind === "job" || kind === "supply";
const MOST: Record<string, number> = defaults.most;

/** A part with nothing entered, as the server makes it. */
const empty = <T>(kind: Exclude<keyof typeof defaults, "most">) => defaults[kind] as unknown as T;
export const EMPTY_DEVICE = empty<Circuit>("circuit").device;
export const EMPTY_CABLE = empty<Circuit>("circuit").run.cable;

const withRun = (circuit: Circuit, run: Partial<Run>): Circuit => ({ ...circuit, run: { ...circuit.run, ...run } });

/** Fields laid over a part: those of a circuit's device and cable come nested or by a dotted name. */
function laidOver<T extends Identified>(kind: Kind, part: T, fields: Fields): T {
  if (kind !== "circuit") return { ...part, ...fields };
  let next = part as unknown as Circuit;
  for (const [name, value] of Object.entries(fields)) {
    const [outer = "", inner] = name.split(".");
    const values = inner ? { [inner]: value } : (value as Fields);
    if (outer === "device") next = { ...next, device: { ...next.device, ...(values as Partial<Device>) } };
    else if (outer === "cable") next = withRun(next, { cable: { ...next.run.cable, ...(values as Partial<Cable>) } });
    else next = { ...next, [outer]: value };
  }
  return next as unknown as T;
}

function ownerOf(inst: Installation, kind: Kind, id: string): Circuit | undefined {
  return inst.circuits.find((c) => (kind === "load" ? c.loads : c.run.spans).some((p) => p.id === id));
}

function parentOf(inst: Installation, kind: Kind, id: string): string | null {
  if (kind === "circuit") return inst.circuits.find((c) => c.id === id)?.board ?? null;
  return kind === "load" || kind === "span" ? (ownerOf(inst, kind, id)?.id ?? null) : null;
}

function siblings(inst: Installation, kind: Kind, parent: string | null): readonly Identified[] {
  if (isListed(kind)) return inst[LISTS[kind]];
  if (kind === "circuit") return inst.circuits.filter((c) => c.board === parent);
  const home = inst.circuits.find((c) => c.id === parent);
  return home ? (kind === "load" ? home.loads : home.run.spans) : [];
}

/** Circuits are kept board by board, each board's own in their order. */
function canonical(inst: Installation, circuits: readonly Circuit[]): Installation {
  const known = new Set(inst.boards.map((b) => b.id));
  const order = inst.boards.flatMap((b) => circuits.filter((c) => c.board === b.id));
  return { ...inst, circuits: [...order, ...circuits.filter((c) => !known.has(c.board))] };
}

function withSiblings(
  inst: Installation,
  kind: Kind,
  parent: string | null,
  parts: readonly Identified[],
): Installation {
  if (isListed(kind)) {
    const next = { ...inst, [LISTS[kind]]: parts } as Installation;
    return kind === "board" ? canonical(next, next.circuits) : next;
  }
  if (kind === "circuit")
    return canonical(inst, [...inst.circuits.filter((c) => c.board !== parent), ...(parts as readonly Circuit[])]);
  return {
    ...inst,
    circuits: inst.circuits.map((c) =>
      c.id !== parent
        ? c
        : kind === "load"
          ? { ...c, loads: parts as Load[] }
          : withRun(c, { spans: parts as unknown as Span[] }),
    ),
  };
}

function find(inst: Installation, kind: Kind, id: string): Identified {
  const found = siblings(inst, kind, parentOf(inst, kind, id)).find((p) => p.id === id);
  if (!found) throw new Refused("id", `a ${kind} in this job`);
  return found;
}

function set(inst: Installation, { kind, id, fields }: Change): Installation {
  const given = (fields ?? {}) as Fields;
  if (kind === "job") {
    const name = typeof given.name === "string" ? { name: given.name.trim() } : {};
    return { ...inst, ...given, ...name };
  }
  if (kind === "supply") return { ...inst, supply: { ...inst.supply, ...given } };
  const part = find(inst, kind, id);
  checkReferences(inst, kind, part, given);
  const parent = parentOf(inst, kind, id);
  const parts = siblings(inst, kind, parent).map((p) => (p.id === id ? laidOver(kind, p, given) : p));
  return withSiblings(inst, kind, parent, parts);
}

function checkReferences(inst: Installation, kind: Kind, part: Identified, fields: Fields) {
  const { route, feeds } = fields;
  if (kind === "span" && route && !inst.routes.some((b) => b.id === route))
    throw new Refused("route", "a route of this job");
  if (kind === "circuit" && typeof feeds === "string") checkFeeds(inst, part as Circuit, feeds);
  checkSpan(inst, kind, part, fields);
}

/** A load stands at the end of a span of its circuit; a span leaves from one before it in the list, or from the board. */
function checkSpan(inst: Installation, kind: Kind, part: Identified, { after, span }: Fields) {
  const spans = ownerOf(inst, kind, part.id)?.run.spans;
  if (!spans) return;
  if (kind === "load" && typeof span === "string" && !spans.some((s) => s.id === span))
    throw new Refused("span", "a span of this job, of its circuit");
  if (kind === "span" && typeof after === "string") befores(spans.map((s) => (s.id === part.id ? { ...s, after } : s)));
}

/** A board has one feeder, and may not feed itself, directly or through others. */
function checkFeeds(inst: Installation, circuit: Circuit, board: string) {
  if (!inst.boards.some((b) => b.id === board)) throw new Refused("feeds", "a board of this job");
  // Of a job with stages each is asked by itself, once the change is made.
  if (inst.stages.length > 0) return;
  if (inst.circuits.some((c) => c.feeds === board && c.id !== circuit.id))
    throw new Refused("feeds", "a board that no other circuit feeds");
  const seen = new Set([circuit.id]);
  let above = circuit.board;
  while (above !== board) {
    const feeder = inst.circuits.find((c) => c.feeds === above);
    if (!feeder || seen.has(feeder.id)) return;
    seen.add(feeder.id);
    above = feeder.board;
  }
  throw new Refused("feeds", "another board: no board may feed itself");
}

const inserted = <T>(list: readonly T[], index: number | null | undefined, item: T): T[] => {
  const at = Math.max(0, Math.min(index ?? list.length, list.length));
  return [...list.slice(0, at), item, ...list.slice(at)];
};

function parentFor(inst: Installation, kind: Kind, parent: string | null | undefined): string | null {
  if (isListed(kind)) return null;
  const there = kind === "circuit" ? inst.boards : inst.circuits;
  if (!there.some((p) => p.id === parent))
    throw new Refused("parent", `a ${kind === "circuit" ? "board" : "circuit"} of this job`);
  return parent as string;
}

function* identities(inst: Installation): Generator<string> {
  for (const part of [...inst.boards, ...inst.routes, ...inst.stages, ...inst.dismissals]) yield part.id;
  for (const c of inst.circuits) {
    yield c.id;
    for (const part of [...c.loads, ...c.run.spans]) yield part.id;
  }
}

function room(inst: Installation, kind: Kind, parent: string | null) {
  if (siblings(inst, kind, parent).length >= (MOST[kind] ?? 0))
    throw new Refused(kind, `at most ${MOST[kind]} of them`);
}

function add(inst: Installation, { kind, id, parent, index, fields }: Change): Installation {
  if (isSingle(kind)) throw new Refused("kind", "a part that can be added");
  for (const known of identities(inst)) if (known === id) throw new Refused("id", "an identifier not yet used");
  const home = parentFor(inst, kind, parent);
  room(inst, kind, home);
  const bare = { ...empty<Identified>(kind as Exclude<Kind, "job" | "supply">), id };
  const own = kind === "circuit" ? { board: home, run: { ...empty<Circuit>("circuit").run, id: `${id}-run` } } : {};
  const made = laidOver(kind, { ...bare, ...own }, (fields ?? {}) as Fields);
  checkReferences(inst, kind, made, (fields ?? {}) as Fields);
  const beside = siblings(inst, kind, home);
  // A branch goes behind the others: put between two it would take the rest of the run with it.
  const behind =
    kind === "span" && (made as unknown as Span).after && (beside[index ?? -1] as Span | undefined)?.after === null;
  const next = withSiblings(inst, kind, home, inserted(beside, behind ? null : index, made));
  checkSpan(next, kind, made, (fields ?? {}) as Fields);
  return next;
}

function remove(inst: Installation, { kind, id }: Change): Installation {
  if (isSingle(kind)) throw new Refused("kind", "a part that can be removed");
  find(inst, kind, id);
  if (kind === "board" && inst.boards.length === 1) throw new Refused("board", "a job keeps at least one board");
  let next = inst;
  if (kind === "board")
    next = {
      ...inst,
      circuits: inst.circuits.filter((c) => c.board !== id).map((c) => (c.feeds === id ? { ...c, feeds: null } : c)),
    };
  if (kind === "route")
    next = {
      ...inst,
      circuits: inst.circuits.map((c) =>
        c.run.spans.some((s) => s.route === id)
          ? withRun(c, { spans: c.run.spans.map((s) => (s.route === id ? { ...s, route: null } : s)) })
          : c,
      ),
    };
  if (kind === "stage") next = withoutStage(inst, id);
  const parent = parentOf(next, kind, id);
  if (kind === "span")
    next = {
      ...next,
      circuits: next.circuits.map((c) => (c.id === parent ? withoutSpan(c, id) : c)),
    };
  return withSiblings(
    next,
    kind,
    parent,
    siblings(next, kind, parent).filter((p) => p.id !== id),
  );
}

/** What went on from a span goes on from where that left, and what stood at its end stands there. */
function withoutSpan(circuit: Circuit, gone: string): Circuit {
  const moved = letGo(circuit.run.spans, gone);
  const standing = befores(circuit.run.spans).get(gone) ?? null;
  const spans = circuit.run.spans.map((s) => (moved.has(s.id) ? { ...s, after: moved.get(s.id) ?? null } : s));
  const loads = circuit.loads.map((x) => (x.span === gone ? { ...x, span: standing } : x));
  return { ...withRun(circuit, { spans }), loads };
}

function move(inst: Installation, { kind, id, parent, index }: Change): Installation {
  if (isSingle(kind)) throw new Refused("kind", "a part that can be moved");
  let part = find(inst, kind, id);
  const home = parentOf(inst, kind, id);
  if (kind === "span" && siblings(inst, kind, home).some((s) => (s as Span).after))
    throw new Refused("index", "no other place in a run that branches");
  let target = home;
  if (parent && parent !== home) {
    if (kind !== "circuit") throw new Refused("parent", "a load or span cannot leave its circuit");
    target = parentFor(inst, kind, parent);
    room(inst, kind, target);
    const moved: Circuit = { ...(part as Circuit), board: parent };
    if (moved.feeds) checkFeeds(inst, moved, moved.feeds);
    part = moved;
  }
  const without = withSiblings(
    inst,
    kind,
    home,
    siblings(inst, kind, home).filter((p) => p.id !== id),
  );
  return withSiblings(without, kind, target, inserted(siblings(without, kind, target), index, part));
}

const DO = { set, add, remove, move };
