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
  const { device, cable, ...own } = fields;
  let next = { ...circuit, ...own } as Circuit;
  if (device) next = { ...next, device: { ...next.device, ...(device as Device) } };
  if (cable) next = withRun(next, { cable: { ...next.run.cable, ...(cable as Cable) } });
  return next;
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
      return { ...inst, boards: inst.boards.map((b) => (b.id === id ? { ...b, ...given } : b)) };
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

export const EMPTY_DEVICE: Device = {
  kind: "mcb",
  curve: "B",
  rating: null,
  icn: null,
  idn: null,
  rcd_type: null,
  i2t: null,
};
const EMPTY_LOAD = { name: "", kind: "other", basis: "W", amount: null, pf: 1, quantity: 1 } as const;
const EMPTY_SPAN = { name: "", place: null, length: null, ambient: 30, group: 1, laid: "bunched", wrapped: 0 } as const;

function add(inst: Installation, { kind, id, parent, index, fields }: Change): Installation {
  const given = fields as Fields;
  if (kind === "board")
    return { ...inst, boards: inserted(inst.boards, index, { id, name: "", ways: null, ...given }) };
  if (kind === "load")
    return mapCircuit(inst, parent ?? "", (c) => ({
      ...c,
      loads: inserted(c.loads, index, { ...EMPTY_LOAD, id, ...given } as Load),
    }));
  if (kind === "span")
    return mapCircuit(inst, parent ?? "", (c) =>
      withRun(c, { spans: inserted(c.run.spans, index, { ...EMPTY_SPAN, id, ...given } as Span) }),
    );
  if (kind !== "circuit") return inst;
  const run = { id: `${id}-run`, cable: { family: null, csa: null, cpc_csa: null }, spans: [] };
  const bare: Circuit = {
    id,
    name: "",
    board: parent ?? "",
    feeds: null,
    phases: 1,
    shape: "radial",
    device: EMPTY_DEVICE,
    loads: [],
    run,
  };
  return placedCircuit(inst, laidOver(bare, given), index);
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
      circuits: inst.circuits.filter((c) => c.board !== id),
    };
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
  if (kind === "board") return { ...inst, boards: moved(inst.boards, id, index) };
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
