import type { Board, Change, Circuit, Installation, Rules } from "../../api/types";
import { change } from "../../sync/job-context";
import { quantity, shortFigure } from "../../ui/quantity";
import { loadText } from "../circuit/reading";

export type ColumnId = "name" | "device" | "load" | "cable" | "length" | "place" | "phase";

export interface ColumnAbout {
  id: ColumnId;
  title: string;
  width: string;
}

export const COLUMNS: readonly ColumnAbout[] = [
  { id: "name", title: "name", width: "minmax(9rem,1.3fr)" },
  { id: "device", title: "device", width: "minmax(7.5rem,0.9fr)" },
  { id: "load", title: "load", width: "minmax(7.5rem,1fr)" },
  { id: "cable", title: "cable", width: "minmax(7rem,0.9fr)" },
  { id: "length", title: "length", width: "minmax(4.5rem,0.5fr)" },
  { id: "place", title: "installed", width: "minmax(8rem,1.2fr)" },
];
export const PHASE: ColumnAbout = { id: "phase", title: "phase", width: "3.5rem" };

/** A row of the grid: a circuit, or a way that is still blank. way: the first of the poles it takes, counted from 1. */
export interface Row {
  key: string;
  way: number;
  circuit: Circuit | null;
}

/** The ways of a board in order: its circuits, a three-phase one on three ways, then what is blank; one blank row always waits. */
export function rowsOf(board: Board, circuits: readonly Circuit[]): Row[] {
  const rows: Row[] = [];
  let way = 1;
  for (const circuit of circuits) {
    rows.push({ key: circuit.id, way, circuit });
    way += circuit.phases;
  }
  const blank = Math.max(1, Math.min(24, (board.ways ?? 0) - way + 1));
  for (let i = 0; i < blank; i++) rows.push({ key: `blank-${way + i}`, way: way + i, circuit: null });
  return rows;
}

/** Circuits of a board whose number, which stays with their cable, is not that of their way: A5 and its name, and the way they are on now. */
export function moved(
  inputs: Pick<Installation, "numbers" | "circuits">,
  board: Board,
): { number: string; name: string; way: number }[] {
  const held = new Map(inputs.numbers.map((t) => [t.part, t.number]));
  return rowsOf(
    board,
    inputs.circuits.filter((c) => c.board === board.id),
  ).flatMap(({ circuit, way }) => {
    const number = circuit && held.get(circuit.id);
    return number && number !== `${held.get(board.id) ?? ""}${way}` ? [{ number, name: circuit.name, way }] : [];
  });
}

/** What a cell says, and what is put into its field when it is opened: the reader takes it back as it stands. */
export function cellText(column: ColumnId, circuit: Circuit, rules: Rules, lying: Circuit["run"]["spans"]): string {
  const { device, run } = circuit;
  switch (column) {
    case "name":
      return circuit.name;
    case "device": {
      if (device.rating === null) return "";
      const kind = rules.devices.find((d) => d.id === device.kind);
      const letter = kind?.trips === "breaker" ? device.curve : "";
      const named = letter
        ? `${letter}${shortFigure(device.rating)} ${device.kind}`
        : `${device.kind} ${shortFigure(device.rating)}`;
      return device.idn === null ? named : `${named} ${shortFigure(device.idn * 1000)}mA`;
    }
    case "load":
      return circuit.loads.map((load) => `${loadText(load)}${load.future ? " later" : ""}`).join(" + ");
    case "cable": {
      const family = rules.families.find((f) => f.id === run.cable.family);
      const size = run.cable.csa === null ? "" : shortFigure(run.cable.csa);
      const pair = family?.pairs.find((p) => p.line === run.cable.csa)?.cpc;
      const own = run.cable.cpc_csa;
      const cpc = own === null || own === pair || own === run.cable.csa ? "" : `/${shortFigure(own)}`;
      return `${size}${cpc} ${family?.title ?? ""}`.trim();
    }
    case "length":
      return lying.map((s) => (s.length === null ? "?" : shortFigure(s.length))).join(" + ");
    case "place":
      return lying.map((s) => rules.places.find((p) => p.id === s.place)?.title ?? "not chosen").join(" + ");
    case "phase":
      return circuit.phases === 3 ? "3" : (circuit.phase ?? "");
  }
}

/** What a cell says when nobody is in it: shorter where the whole would not fit. */
export function cellShown(column: ColumnId, circuit: Circuit, rules: Rules, lying: Circuit["run"]["spans"]): string {
  if (column === "length") {
    if (lying.length === 0 || lying.some((s) => s.length === null)) return lying.length === 0 ? "" : "some not known";
    return quantity(
      lying.reduce((sum, s) => sum + (s.length ?? 0), 0),
      "m",
    );
  }
  if (column === "load" && circuit.feeds) return "feeds a board";
  if (column === "place" && lying.length > 1) {
    const first = rules.places.find((p) => p.id === lying[0]?.place)?.title ?? "not chosen";
    return `${first}, and ${lying.length - 1} more`;
  }
  return cellText(column, circuit, rules, lying);
}

/** The changes that make a circuit once more, after it, on the same board. */
export function duplicated(circuit: Circuit, index: number): { id: string; changes: Change[] } {
  const id = crypto.randomUUID();
  const { id: _, board, feeds: __, loads, run, name, ...rest } = circuit;
  const fields = { ...rest, name: name ? `${name} (again)` : "", cable: run.cable };
  const changes = [change("add", "circuit", id, { parent: board, index: index + 1, fields })];
  for (const { id: was, ...load } of loads)
    changes.push(change("add", "load", was && crypto.randomUUID(), { parent: id, fields: load }));
  for (const { id: was, ...span } of run.spans)
    changes.push(change("add", "span", was && crypto.randomUUID(), { parent: id, fields: span }));
  return { id, changes };
}

/** A table from the clipboard: lines and tabs, or semicolons where there are no tabs. */
export function pasted(text: string): string[][] {
  const lines = text.replace(/\r/g, "").replace(/\n+$/, "").split("\n");
  const by = lines.some((l) => l.includes("\t")) ? "\t" : lines.every((l) => l.includes(";")) ? ";" : null;
  return lines.map((line) =>
    by === null ? [line] : line.split(by).map((cell) => cell.trim().replace(/^"(.*)"$/, "$1")),
  );
}
