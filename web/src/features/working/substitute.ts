import type { Step } from "../../api/types";
import { shortFigure } from "../../ui/quantity";

/** A formula with its values put in, longest symbols first so that "Zs,max" is not taken for "Zs". */
export function substituted(step: Pick<Step, "formula" | "puts">): string {
  const symbols = Object.keys(step.puts).sort((a, b) => b.length - a.length);
  if (symbols.length === 0) return step.formula;
  const pattern = new RegExp(symbols.map((s) => s.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")).join("|"), "g");
  const values = new Map(Object.entries(step.puts).map(([symbol, value]) => [symbol, shortFigure(value)]));
  return step.formula.replace(pattern, (symbol, at: number) => {
    const before = step.formula[at - 1] ?? " ";
    const after = step.formula[at + symbol.length] ?? " ";
    const alone = !/[\p{L}\d]/u.test(before) && !/[\p{L}\d′]/u.test(after);
    return alone ? (values.get(symbol) ?? symbol) : symbol;
  });
}
