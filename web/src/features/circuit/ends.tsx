import type { CircuitResult } from "../../api/types";
import { figure, quantity } from "../../ui/quantity";
import { Mark, WORDS } from "../../ui/verdict";
import { ENDS } from "./words";

interface Props {
  result: CircuitResult;
  /** The end whose path is drawn. */
  shown: string;
  /** The chosen span. */
  selected: string | null;
  onShow: (span: string) => void;
}

/** What arrives at each end and box of a run that branches, as one walks along the cable; the path to the one that is pressed is drawn. */
export function Ends({ result, shown, selected, onShow }: Props) {
  return (
    <section aria-label={ENDS.title} className="mt-2 overflow-x-auto">
      <table className="w-full max-w-3xl">
        <caption className="pb-1 text-left text-faded">{ENDS.say}</caption>
        <thead>
          <tr className="border-hair border-b text-left text-faded">
            <th className="font-normal">{ENDS.at}</th>
            <th className="pl-3 text-right font-normal">{ENDS.metres}</th>
            <th className="pl-3 text-right font-normal">{ENDS.drop}</th>
            <th className="pl-3 text-right font-normal">Zs</th>
            <th className="pl-3 text-right font-normal max-sm:hidden">R1+R2</th>
            <th className="pl-3 text-right font-normal max-sm:hidden">{ENDS.fault}</th>
          </tr>
        </thead>
        <tbody>
          {result.ends.map((end) => (
            <tr
              key={end.span}
              data-end={end.span}
              data-last={end.last || undefined}
              className={`border-hair border-b ${end.span === selected ? "bg-lit" : ""}`}
            >
              <th className="py-0.5 text-left font-normal">
                {end.verdict && <Mark verdict={end.verdict} />}{" "}
                <button
                  type="button"
                  className="word"
                  aria-current={end.span === shown || undefined}
                  aria-label={`${end.name}: ${end.last ? ENDS.end : ENDS.box}${end.verdict ? `, ${WORDS[end.verdict]}` : ""}`}
                  onClick={() => onShow(end.span)}
                >
                  {end.name}
                </button>
                {end.span === shown && <span className="text-faded"> {ENDS.drawn}</span>}
              </th>
              <td className="figure whitespace-nowrap pl-3 text-right">{told(end.at, "m")}</td>
              <td className="figure whitespace-nowrap pl-3 text-right">
                {end.drop === null ? "–" : `${figure(end.drop, "%")} %`}
              </td>
              <td className="figure whitespace-nowrap pl-3 text-right">{told(end.zs, "Ω")}</td>
              <td className="figure whitespace-nowrap pl-3 text-right max-sm:hidden">{told(end.r1r2, "Ω")}</td>
              <td className="figure whitespace-nowrap pl-3 text-right max-sm:hidden">{told(end.fault_min, "A")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const told = (value: number | null, unit: string) => (value === null ? "–" : quantity(value, unit));
