import type { Answers, Exercise } from "../../api/practice";
import { readQuantity } from "../../ui/quantity";

/** What is typed into the lines of an exercise, kept in this browser until it is handed in. */
export type Typed = Record<string, string>;

/** Read what was typed: numbers by line, null where nothing stands; and for each line that is no number, why. */
export function readAnswers(exercise: Exercise, typed: Typed): { answers: Answers; wrong: Record<string, string> } {
  const answers: Answers = {};
  const wrong: Record<string, string> = {};
  for (const line of exercise.lines) {
    const text = (typed[line.id] ?? "").trim();
    if (text === "") {
      answers[line.id] = null;
      continue;
    }
    const read = readQuantity(text, { lo: null, hi: null, unit: line.unit });
    if (read.ok) answers[line.id] = read.value;
    else wrong[line.id] = read.why;
  }
  return { answers, wrong };
}

/** The kinds of slips in a few words, for progress. */
export const SLIPS: Record<string, string> = {
  r_for_z: "r for z",
  single_phase_column: "the single-phase column",
  volts_across_phases: "volts across phases",
  cpc_as_line: "the cpc taken as the line",
  factor_forgotten: "a factor left out",
  factor_twice: "a factor twice",
  kilo: "out by a thousand: kW, mΩ, mA",
  thirty_per_cent: "the 30 % rule",
  metres_for_millimetres: "mV or mΩ not converted",
  wrong_column: "wrong column",
  wrong_row: "wrong row",
  other_formula: "wrong formula",
};
