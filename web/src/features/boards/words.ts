import type { Circuit } from "../../api/types";
import { exact, watts } from "../../ui/quantity";

/** The loads of a circuit as the reader takes them back. */
export function loadsWords(circuit: Circuit): string {
  return circuit.loads
    .map((load) => {
      const amount =
        load.basis === "In" || load.amount === null
          ? ""
          : load.basis === "W"
            ? watts(load.amount)
            : `${exact(load.amount)} A`;
      const times = load.quantity > 1 ? `${load.quantity} × ` : "";
      const pf = load.pf < 1 ? ` pf ${load.pf}` : "";
      return `${times}${amount} ${load.name}${pf}${load.future ? " later" : ""}`.replace(/\s+/g, " ").trim();
    })
    .join(" + ");
}
