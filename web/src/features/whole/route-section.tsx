import type { Route, RouteResult } from "../../api/types";
import { CheckList } from "../../parts/check-list";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { change, setFields, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { quantity, shortFigure } from "../../ui/quantity";
import { Sought } from "../../ui/sought";

interface Props {
  route: Route;
  result: RouteResult | undefined;
  sought: boolean;
  names: Map<string, string>;
  onCircuit: (id: string) => void;
  onTable: (number: string) => void;
}

/** A route, conduit or trunking: who runs in it, who counts, the factor, the space. */
export function RouteSection({ sought, route, result, names, onCircuit, onTable }: Props) {
  const store = useStore();
  return (
    <Sought as={route.name || "Unnamed route"} sought={sought} className="mt-8">
      <h2 className="font-semibold text-xl">{route.name || "Unnamed route"}</h2>
      {result && (
        <>
          <p className="mt-1">
            {result.n} {result.n === 1 ? "circuit counts" : "circuits count"}
            {result.cg !== null && `, Cg ${shortFigure(result.cg)}`}.
          </p>
          {result.members.length === 0 && (
            <p className="text-faded">Nothing lies in it yet: choose it where a span says who lies beside it.</p>
          )}
          {result.members.length > 0 && (
            <table className="mt-2 w-full max-w-2xl">
              <thead>
                <tr className="border-hair border-b text-left text-faded">
                  <th className="font-normal">circuit</th>
                  <th className="text-right font-normal">Ib</th>
                  <th className="text-right font-normal">30 % of its grouped rating</th>
                  <th className="text-right font-normal">counts</th>
                  <th className="text-right font-normal">n for itself</th>
                </tr>
              </thead>
              <tbody className="figure">
                {result.members.map((m) => (
                  <tr key={m.circuit} className="border-hair border-b">
                    <td className="font-sans">
                      <button type="button" className="word" onClick={() => onCircuit(m.circuit)}>
                        {names.get(m.circuit)}
                      </button>
                    </td>
                    <td className="text-right">{m.ib === null ? "not known" : quantity(m.ib, "A")}</td>
                    <td className="text-right">{m.light === null ? "not known" : quantity(m.light, "A")}</td>
                    <td className="text-right font-sans">{m.counted ? "yes" : "no"}</td>
                    <td className="text-right">{m.n}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <CheckList checks={result.checks} onTable={onTable} />
        </>
      )}
      <More title="Everything of this route">
        <PartFields
          kind="route"
          values={route}
          onSave={(fields) => store.edit([setFields("route", route.id, fields)])}
        />
        <Button className="mt-3" onClick={() => store.edit([change("remove", "route", route.id)])}>
          remove it; its spans stay
        </Button>
      </More>
    </Sought>
  );
}
