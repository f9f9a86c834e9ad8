import defaults from "../api/defaults.gen.json";
import type { Cable, Change, Circuit, Device, Installation, Load, Run, Span } from "../api/types";

/** Lay a change over an installation, as the server will: so that what is typed shows at once, before any figure comes back. */
export function applied(inst: Installation, change: Change): Installation {
  switch (change.op) {
    case "set":
      return set(inst, change);
    case "add":
      return add(inst, change);
    case "remove":
      return remove(inst, change);
    case "move":
      return move(inst, change);
  }
}

type Fields = Record<string, unknown>;

const mapCircuit = (inst: Installation, id: string, change: (c: Circuit) => Circuit): Installation => ({
  ...inst,
  circuits: inst.circuits.map((c) => (c.id === id ? change(c) : c)),
});

const withRun = (circuit: Circuit, run: Partial<Run>): Circuit => ({ ...circuit, run: { ...circuit.run, ...run } });

function laidOver(circuit: Circuit, fields: Fields): Circuit {
  const { device, cable, readings, ...own } = fields;
  let next = { ...circuit, ...own } as Circuit;
  if (device) next = { ...next, device: { ...next.device, ...(device as Device) } };
  if (readings) next = { ...next, readings: { ...next.readings, ...(readings as Circuit["readings"]) } };
  if (cable) next = withRun(next, { cable: { ...next.run.cable, ...(cable as Cable) } });
  return next;
}

/** Parts that hang on the job itself, each kind in a list of its own. */
const LISTS = { board: "boards", bundle: "bundles", dismissal: "dismissals" } as const;
type Listed = keyof typeof LISTS;
const isListed = (kind: string): kind is Listed => kind in LISTS;

function withList(inst: Installation, kind: Listed, change: (list: { id: string }[]) => { id: string }[]) {
  return { ...inst, [LISTS[kind]]: change(inst[LISTS[kind]]) } as Installation;
}

const mapParts = (inst: Installation, kind: "load" | "span", change: (part: Load | Span) => Load | Span | null) => ({
  ...inst,
  circuits: inst.circuits.map((c) => {
    const parts: (Load | Span)[] = kind === "load" ? c.loads : c.run.spans;
    const next = parts.map(change);
    if (next.every((p, i) => p === parts[i])) return c;
    const kept = next.filter((p) => p !== null);
    return kind === "load" ? { ...c, loads: kept as Load[] } : withRun(c, { spans: kept as Span[] });
  }),
});

function set(inst: Installation, { kind, id, fields }: Change): Installation {
  const given = fields as Fields;
  switch (kind) {
    case "supply":
      return { ...inst, supply: { ...inst.supply, ...given } };
    case "board":
    case "bundle":
    case "dismissal":
      return withList(inst, kind, (list) => list.map((p) => (p.id === id ? { ...p, ...given } : p)));
    case "circuit":
      return mapCircuit(inst, id, (c) => laidOver(c, given));
    case "load":
    case "span":
      return mapParts(inst, kind, (p) => (p.id === id ? { ...p, ...given } : p));
    default:
      return inst;
  }
}

const inserted = <T>(list: readonly T[], index: number | null | undefined, item: T): T[] => {
  const at = index ?? list.length;
  return [...list.slice(0, at), item, ...list.slice(at)];
};

/** A part with nothing entered, as the server makes it. */
const empty = <T>(kind: keyof typeof defaults) => defaults[kind] as unknown as T;
export const EMPTY_DEVICE = empty<Circuit>("circuit").device;
export const EMPTY_CABLE = empty<Circuit>("circuit").run.cable;

function add(inst: Installation, { kind, id, parent, index, fields }: Change): Installation {
  const given = fields as Fields;
  if (isListed(kind))
    return withList(inst, kind, (list) => inserted(list, index, { ...empty<{ id: string }>(kind), ...given, id }));
  if (kind === "load")
    return mapCircuit(inst, parent ?? "", (c) => ({
      ...c,
      loads: inserted(c.loads, index, { ...empty<Load>("load"), id, ...given } as Load),
    }));
  if (kind === "span")
    return mapCircuit(inst, parent ?? "", (c) =>
      withRun(c, { spans: inserted(c.run.spans, index, { ...empty<Span>("span"), id, ...given } as Span) }),
    );
  if (kind !== "circuit") return inst;
  const bare = empty<Circuit>("circuit");
  const made: Circuit = { ...bare, id, board: parent ?? "", run: { ...bare.run, id: `${id}-run` } };
  return placedCircuit(inst, laidOver(made, given), index);
}

/** Circuits are kept in one list, each board's own in their order: the place among its own decides. */
function placedCircuit(inst: Installation, circuit: Circuit, index: number | null | undefined): Installation {
  const others = inst.circuits.filter((c) => c.board !== circuit.board);
  const own = inst.circuits.filter((c) => c.board === circuit.board && c.id !== circuit.id);
  return { ...inst, circuits: [...others, ...inserted(own, index, circuit)] };
}

function remove(inst: Installation, { kind, id }: Change): Installation {
  if (kind === "circuit") return { ...inst, circuits: inst.circuits.filter((c) => c.id !== id) };
  if (kind === "board")
    return {
      ...inst,
      boards: inst.boards.filter((b) => b.id !== id),
      circuits: inst.circuits.filter((c) => c.board !== id).map((c) => (c.feeds === id ? { ...c, feeds: null } : c)),
    };
  if (kind === "bundle")
    return {
      ...inst,
      bundles: inst.bundles.filter((b) => b.id !== id),
      circuits: inst.circuits.map((c) =>
        withRun(c, { spans: c.run.spans.map((s) => (s.bundle === id ? { ...s, bundle: null } : s)) }),
      ),
    };
  if (kind === "dismissal") return withList(inst, kind, (list) => list.filter((d) => d.id !== id));
  if (kind === "load" || kind === "span") return mapParts(inst, kind, (p) => (p.id === id ? null : p));
  return inst;
}

function moved<T extends { id: string }>(list: T[], id: string, index: number | null | undefined): T[] {
  const item = list.find((i) => i.id === id);
  if (!item) return list;
  return inserted(
    list.filter((i) => i.id !== id),
    index,
    item,
  );
}

function move(inst: Installation, { kind, id, parent, index }: Change): Installation {
  if (isListed(kind)) return withList(inst, kind, (list) => moved(list, id, index));
  if (kind === "circuit") {
    const circuit = inst.circuits.find((c) => c.id === id);
    return circuit ? placedCircuit(inst, { ...circuit, board: parent ?? circuit.board }, index) : inst;
  }
  return {
    ...inst,
    circuits: inst.circuits.map((c) =>
      kind === "load"
        ? { ...c, loads: moved(c.loads, id, index) }
        : withRun(c, { spans: moved(c.run.spans, id, index) }),
    ),
  };
}
