/** Reading and writing quantities: what an electrician types, and the digits they would write down. */

const SCALES: Record<string, Record<string, number>> = {
  m: { mm: 0.001, cm: 0.01, m: 1 },
  A: { mA: 0.001, A: 1, kA: 1000 },
  kA: { A: 0.001, kA: 1 },
  mA: { mA: 1, A: 1000 },
  W: { W: 1, kW: 1000 },
  Ω: { Ω: 1, ohm: 1, mΩ: 0.001, mohm: 0.001 },
  V: { V: 1, kV: 1000 },
  "mm²": { "mm²": 1, mm2: 1, mm: 1 },
  "°C": { "°C": 1, C: 1 },
};

/** told: what a bare number was taken for, where that is not the unit of the field. */
export type Read = { ok: true; value: number; told?: string } | { ok: false; why: string };

export interface Limits {
  lo: number | null;
  hi: number | null;
  unit: string;
  /** Only whole numbers make sense. */
  whole?: boolean;
}

/** Read a number with an optional unit of the same kind, e.g. "2.4", "2,4 m", "240 cm". */
export function readQuantity(text: string, limits: Limits): Read {
  const { lo, hi, unit } = limits;
  const allowed =
    lo !== null && hi !== null ? `${shortFigure(lo)} to ${shortFigure(hi)} ${unit}`.trim() : `a number in ${unit}`;
  const match = /^\s*([+-]?\d+(?:[.,]\d+)?|[+-]?[.,]\d+)\s*(\S*)\s*$/.exec(text);
  if (!match) return { ok: false, why: `A number is needed: ${allowed}.` };
  const typed = match[2] ?? "";
  const scales = SCALES[unit] ?? { [unit]: 1 };
  const key = Object.keys(scales).find((k) => k.toLowerCase() === typed.toLowerCase());
  const scale = typed === "" ? 1 : key === undefined ? undefined : (scales[typed] ?? scales[key]);
  if (scale === undefined)
    return { ok: false, why: `${typed} is not a unit for this field: ${Object.keys(scales).join(", ")}.` };
  const value = Number((Number((match[1] ?? "").replace(",", ".")) * scale).toPrecision(12));
  // Where only kA makes sense, 2.1 is 2.1 kA; it is said beside the field before it is taken.
  if (
    unit === "A" &&
    typed === "" &&
    lo !== null &&
    hi !== null &&
    value < lo &&
    value * 1000 >= lo &&
    value * 1000 <= hi
  )
    return { ok: true, value: Number((value * 1000).toPrecision(12)), told: `read as ${figure(value, "kA")} kA` };
  if ((lo !== null && value < lo) || (hi !== null && value > hi))
    return { ok: false, why: `${shortFigure(value)} ${unit} is outside ${allowed}.` };
  if (limits.whole && !Number.isInteger(value))
    return { ok: false, why: `${shortFigure(value)} is not a whole number.` };
  return { ok: true, value };
}

const PLACES: Record<string, number> = { A: 1, V: 1, "%": 2, Ω: 3, m: 2, s: 2, "mm²": 2, kA: 2 };

/** A number without its unit, with the decimals its unit deserves; the same rule as on the server. */
export function figure(value: number, unit = ""): string {
  const places = PLACES[unit];
  if (places === undefined) return shortFigure(value);
  // An electrode's ohms are not known to the thousandth; the same rule as on the server.
  if (unit === "Ω" && Math.abs(value) >= 100) return shortFigure(Math.round(value));
  if (unit === "Ω" && Math.abs(value) >= 10) return value.toFixed(1);
  const text = value.toFixed(places);
  return unit === "Ω" || unit === "%" ? text : text.replace(/\.?0+$/, (m) => (text.includes(".") ? "" : m));
}

export function shortFigure(value: number): string {
  if (Math.abs(value) >= 1000) return Math.round(value).toLocaleString("en-GB").replaceAll(",", " ");
  return String(Number(value.toPrecision(4)));
}

/** A figure with its unit; a current of 1000 A and more reads in kA, as on the server. */
export const quantity = (value: number, unit: string): string =>
  unit === "A" && Math.abs(value) >= 1000
    ? `${figure(value / 1000, "kA")} kA`
    : `${figure(value, unit)} ${unit}`.trim();

/** Keep numbers and their units on one line. */
export const glued = (text: string) =>
  text
    .replace(/(\d) (?=\d{3}(?!\d))/g, "$1\u00a0")
    .replace(/(\d) (kA|mA|A²s|A|V|mm²|mm|Ω|%|m|s)(?![\p{L}\d])/gu, "$1\u00a0$2");

/** An input as it was entered, all its digits: what is put back into a field must not be rounded on the way. */
export const exact = (value: number) => String(Number(value.toPrecision(12)));

export const watts = (value: number) => (value >= 1000 ? `${exact(value / 1000)} kW` : `${exact(value)} W`);

export const percent = (share: number) =>
  share > 1 ? "> 100 %" : `${share < 0 ? "−" : ""}${Math.abs(Math.round(share * 100))} %`;
