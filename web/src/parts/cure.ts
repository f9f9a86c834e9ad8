import type { Attention } from "../api/types";
import type { pathsOf } from "./paths";

/** Where what needs a person is cured. */
export function cureOf(line: Attention, paths: ReturnType<typeof pathsOf>): string {
  if (line.circuit) return paths.circuit(line.circuit, { check: line.check, seek: line.level === "not_known" });
  if (line.route) return paths.routes(line.route);
  if (line.step === "earthing") return paths.earthing(line.board ?? "intake");
  if (line.step === "demand") return paths.demand;
  if (line.board) return paths.board(line.board);
  return paths.survey(line.field);
}
