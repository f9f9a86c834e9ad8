import type { Cited, Figure } from "../api/types";
import { quantity } from "../ui/quantity";
import { Steps } from "./check-list";

/** Figures that are shown beside the checks; each opens to its working, or says why there is none. */
export function FigureList({ figures, onTable }: { figures: readonly Figure[]; onTable: (cite: Cited) => void }) {
  return (
    <ul>
      {figures.map((one) => (
        <li key={one.id} data-figure={one.id} className="border-hair border-t py-1">
          <details>
            <summary className="grid cursor-pointer grid-cols-[22rem_1fr] hover:bg-lit max-sm:grid-cols-1">
              <span>{one.title}</span>
              <span className="figure">
                {one.value === null ? "not known" : `${quantity(one.value, one.unit)}${one.doubtful ? " †" : ""}`}
              </span>
            </summary>
            {one.why && <p className="text-faded">{one.why}</p>}
            <Steps steps={one.steps} onTable={onTable} />
          </details>
        </li>
      ))}
    </ul>
  );
}
