import { exact } from "../../ui/quantity";

/** What a reading holds of what the instrument showed. */
interface Shown {
  value?: number | null;
  over?: boolean;
  tripped?: boolean;
  ok?: boolean | null;
}

const MOST = 1_000_000;

/** A reading in words: "0.45 Ω", "> 200 MΩ", "over range", "yes". */
export function readingText({ value = null, over = false, tripped = false, ok = null }: Shown, unit: string): string {
  if (ok !== null) return ok ? "yes" : "no";
  if (tripped) return "RCD tripped";
  if (value === null) return "over range";
  return `${over ? "> " : ""}${exact(value)} ${unit}`;
}

/** What was typed for a reading: a figure, or ">" and the end of the instrument's range; null where it is neither. */
export function readFigure(text: string): { value: number; over: boolean } | null {
  const [, more = "", figure = ""] = /^\s*(>?)\s*(\d*[.,]?\d+|\d+[.,]?)\s*$/.exec(text) ?? [];
  const value = Number(figure.replace(",", "."));
  return figure !== "" && Number.isFinite(value) && value <= MOST ? { value, over: more !== "" } : null;
}
