import type { Cited, Route, RouteOut } from "../../api/types";
import { CheckList } from "../../parts/check-list";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { change, setFields, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { quantity, shortFigure } from "../../ui/quantity";
import { Sought } from "../../ui/sought";
import { Mark, TONE, WORDS } from "../../ui/verdict";
import { FoundCurrents } from "./found-currents";
import { IntoRoute } from "./into-route-form";
import { RouteName, RouteSentence } from "./route-sentence";
import { SectionDrawing } from "./section-drawing";
import { Tryouts } from "./tryouts";
import { ROUTE_SECTION } from "./words";

interface Props {
  route: Route;
  found: RouteOut | undefined;
  sought: boolean;
  names: Map<string, string>;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

const SAID = ["name", "place", "length", "kind", "laid", "ambient", "wrapped"];

/** A route: its sentence, its section to scale, who lies in it, heat and space side by side, and what to try with it. */
export function RouteSection({ sought, route, found, names, onCircuit, onTable }: Props) {
  const store = useStore();
  const { inputs } = useJob();
  const title = route.name || "Unnamed route";
  const lying = (inputs?.circuits ?? []).filter((c) => c.run.spans.some((s) => s.route === route.id));
  return (
    <Sought as={title} sought={sought} className="mt-7 border-hair border-t pt-4">
      <h2 className="font-semibold text-xl">
        <RouteName route={route} />
      </h2>
      <RouteSentence route={route} />
      {found && <Lying title={title} found={found} names={names} onCircuit={onCircuit} />}
      {found?.view.result && <CheckList checks={found.view.result.checks} onTable={onTable} />}
      <IntoRoute route={route} />
      <FoundCurrents circuits={lying} />
      <Tryouts route={route.id} names={names} />
      <More title={ROUTE_SECTION.allDetailsRoute}>
        <PartFields
          kind="route"
          values={route}
          onSave={(fields) => store.edit([setFields("route", route.id, fields)])}
          skip={SAID}
        />
        <Button className="mt-3" onClick={() => store.edit([change("remove", "route", route.id)])}>
          {ROUTE_SECTION.removeRouteSpans}
        </Button>
      </More>
    </Sought>
  );
}

type LyingProps = { title: string; found: RouteOut; names: Map<string, string>; onCircuit: (id: string) => void };

function Lying({ title, found, names, onCircuit }: LyingProps) {
  const { view, section } = found;
  const members = view.result?.members ?? [];
  const numbers = new Map(view.lying.map((one, i) => [one.circuit, i + 1]));
  const light = new Set(members.filter((m) => !m.counted).map((m) => m.circuit));
  if (view.lying.length === 0) return <p className="mt-2 text-faded">{ROUTE_SECTION.noCablesYet}</p>;
  return (
    <div className="mt-2 grid grid-cols-[auto_1fr] items-start gap-x-6 gap-y-2 max-md:grid-cols-1">
      <figure>
        <SectionDrawing section={section} numbers={numbers} light={light} title={`${title}, cross-section to scale`} />
        <figcaption className="mt-1 max-w-[21rem] text-[15px] text-faded">
          {section.why ? "" : ROUTE_SECTION.typicalOverallDiameters}
          {section.left_out > 0 && ` ${section.left_out} more are not drawn.`}
        </figcaption>
      </figure>
      <div>
        <p>
          {view.result && (
            <>
              {view.result.n} {view.result.n === 1 ? "circuit counted" : "circuits counted"}
              {view.result.cg !== null && `, Cg ${shortFigure(view.result.cg)}`}.{" "}
            </>
          )}
          <Verdict of="heat" verdict={view.heat} />
          {view.space !== null && <Verdict of="space" verdict={view.space} />}
        </p>
        <div className="overflow-x-auto">
          <table className="mt-2 w-full [&_td]:px-1.5 [&_td]:whitespace-nowrap [&_th]:px-1.5 [&_th]:whitespace-nowrap">
            <thead>
              <tr className="border-hair border-b text-left align-bottom text-faded">
                <th className="font-normal">circuit</th>
                <th className="text-right font-normal">csa</th>
                <th className="text-right font-normal">Ib</th>
                <th className="text-right font-normal">30 % limit</th>
                <th className="text-right font-normal">counted</th>
                <th className="text-right font-normal">{ROUTE_SECTION.izHere}</th>
                <th className="text-right font-normal">needed</th>
                <td />
              </tr>
            </thead>
            <tbody className="figure">
              {view.lying.map((one, i) => {
                const member = members.find((m) => m.circuit === one.circuit);
                return (
                  <tr key={one.circuit} className="border-hair border-b">
                    <td className="min-w-40 whitespace-normal! font-sans">
                      <span className="figure mr-2 text-faded">{i + 1}</span>
                      <button type="button" className="word" onClick={() => onCircuit(one.circuit)}>
                        {names.get(one.circuit)}
                      </button>
                    </td>
                    <td className="text-right">{one.csa === null ? "?" : quantity(one.csa, "mm²")}</td>
                    <td className="text-right">{member?.ib ? quantity(member.ib, "A") : "?"}</td>
                    <td className="text-right">{member?.light ? quantity(member.light, "A") : "?"}</td>
                    <td className="text-right font-sans">{member ? (member.counted ? "yes" : "no") : "spare"}</td>
                    <td className="text-right">{one.iz === null ? "?" : quantity(one.iz, "A")}</td>
                    <td className="text-right">{one.needed === null ? "?" : quantity(one.needed, "A")}</td>
                    <td className="pl-2">
                      <Mark verdict={one.verdict} size={12} />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      </div>
    </div>
  );
}

function Verdict({ of, verdict }: { of: "heat" | "space"; verdict: RouteOut["view"]["heat"] }) {
  return (
    <span className={`mr-4 whitespace-nowrap ${TONE[verdict]}`} data-side={of} data-verdict={verdict}>
      <Mark verdict={verdict} /> {of}: {WORDS[verdict]}
    </span>
  );
}
