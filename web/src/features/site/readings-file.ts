import type { CircuitTests } from "../../api/site";
import type { NewEntry } from "../../sync/site/state";

type Circuits = readonly { circuit: string; number: string; name: string }[];
const COLUMNS = ["circuit", "quantity", "value", "point", "at", "temperature", "volts", "instrument", "method", "time"];

/** The cells of a CSV file, with quotes as usual; the separator is the one of its first line. */
function cells(text: string): string[][] {
  const first = text.split(/\r?\n/, 1)[0] ?? "";
  const sign = first.includes(";") && !first.includes(",") ? ";" : first.includes("\t") ? "\t" : ",";
  const rows: string[][] = [[]];
  let cell = "";
  let quoted = false;
  const end = () => {
    rows.at(-1)?.push(cell.trim());
    cell = "";
  };
  for (let k = 0; k < text.length; k++) {
    const letter = text[k] ?? "";
    if (quoted) {
      if (letter === '"' && text[k + 1] === '"') cell += text[++k];
      else if (letter === '"') quoted = false;
      else cell += letter;
    } else if (letter === '"') quoted = true;
    else if (letter === sign) end();
    else if (letter === "\n") {
      end();
      rows.push([]);
    } else if (letter !== "\r") cell += letter;
  }
  end();
  return rows.filter((row) => row.some(Boolean));
}

/** A comma before three digits may part thousands: that is asked about with a signal, and not taken without. */
const EITHER = /^[1-9]\d{0,2}(,\d{3})+$/;
const number = (text: string) => (text === "" ? null : EITHER.test(text) ? Number.NaN : Number(text.replace(",", ".")));

/**
 * Readings of a CSV file as entries. A circuit goes by its number or name; a value is a figure, "over" or ">200", "yes" or "no". Every line that cannot
 * be taken is told with its number, and then none is.
 */
export function readFile(text: string, circuits: Circuits): { entries: NewEntry[]; wrong: string[] } {
  const [head = [], ...rows] = cells(text);
  const names = head.map((h) => h.toLowerCase());
  const unknown = names.filter((n) => !COLUMNS.includes(n));
  if (unknown.length > 0 || !["circuit", "quantity", "value"].every((n) => names.includes(n)))
    return {
      entries: [],
      wrong: [
        `Columns: circuit, quantity, value; and as wanted ${COLUMNS.slice(3).join(", ")}. Not: ${unknown.join(", ") || "a file without those three"}.`,
      ],
    };
  const wrong: string[] = [];
  const entries = rows.flatMap((row, k): NewEntry[] => {
    const given = Object.fromEntries(names.map((n, i) => [n, row[i] ?? ""]));
    const said = given.circuit?.toLowerCase();
    const circuit = circuits.find((c) => c.number.toLowerCase() === said || c.name.toLowerCase() === said);
    const value = (given.value ?? "").toLowerCase();
    const over = value === "over" || value.startsWith(">");
    const tripped = value === "trip" || value === "tripped";
    const ok = value === "yes" ? true : value === "no" ? false : null;
    const figure = tripped || value === "over" || ok !== null ? null : number(value.replace(/^>\s*/, ""));
    const numbers = {
      at: number(given.at ?? ""),
      volts: number(given.volts ?? ""),
      temperature: number(given.temperature ?? ""),
    };
    const bad = Object.entries(numbers).find(([, n]) => n !== null && !Number.isFinite(n));
    const time = given.time ? new Date(given.time) : null;
    if (!circuit) wrong.push(`Line ${k + 2}: no circuit “${given.circuit}”.`);
    else if (value === "" || (figure !== null && !Number.isFinite(figure)))
      wrong.push(`Line ${k + 2}: “${given.value}” is not a figure, over, tripped, yes or no.`);
    else if (bad) wrong.push(`Line ${k + 2}: ${bad[0]} is no figure.`);
    else if (time && Number.isNaN(time.getTime())) wrong.push(`Line ${k + 2}: “${given.time}” is no time.`);
    else
      return [
        {
          kind: "reading",
          subject: circuit.circuit,
          data: {
            quantity: given.quantity,
            value: figure,
            over,
            tripped,
            ok,
            point: given.point ?? "",
            at: numbers.at,
            volts: numbers.volts,
            temperature: numbers.temperature ?? 20,
            instrument: given.instrument ?? "",
            method: given.method ?? "",
          },
          ...(time ? { at: time.toISOString() } : {}),
        },
      ];
    return [];
  });
  return { entries: wrong.length > 0 ? [] : entries, wrong };
}

/** An identity made of what an entry of a job holds; any where this browser cannot make one. */
export async function identityOf(job: string, { subject, data }: NewEntry): Promise<string> {
  if (!globalThis.crypto?.subtle) return crypto.randomUUID();
  const text = new TextEncoder().encode(JSON.stringify([job, subject, data]));
  const hex = [...new Uint8Array(await crypto.subtle.digest("SHA-256", text))].map((b) =>
    b.toString(16).padStart(2, "0"),
  );
  const part = (from: number, to: number) => hex.slice(from, to).join("");
  // The form of an identity that says it is made of contents (version 8).
  return `${part(0, 4)}-${part(4, 6)}-8${part(6, 8).slice(1)}-a${part(8, 10).slice(1)}-${part(10, 16)}`;
}

const shownAs = (r: CircuitTests["tests"][number]["rows"][number]["reading"]) => {
  if (r.tripped) return "tripped";
  if (r.over) return r.value === null ? "over" : `>${r.value}`;
  return r.ok === null ? r.value : r.ok ? "yes" : "no";
};

/** What was read so far, as a CSV file that can be read in again. */
export function asFile(found: CircuitTests): string {
  const quoted = (cell: unknown) => {
    const text = cell === null || cell === undefined ? "" : String(cell);
    return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  const lines = found.tests.flatMap((test) =>
    test.rows.map(({ reading: r, at }) =>
      [found.number, r.quantity, shownAs(r), r.point, r.at, r.temperature, r.volts, r.instrument, r.method, at]
        .map(quoted)
        .join(","),
    ),
  );
  return [COLUMNS.join(","), ...lines, ""].join("\r\n");
}
