import { useEffect, useState } from "react";
import { useNavigate, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Citation } from "../api/types";
import { AttentionPage } from "../features/attention/attention-page";
import { CircuitPage } from "../features/circuit/circuit-page";
import { HistoryPage } from "../features/history/history-page";
import { IntakePage } from "../features/intake/intake-page";
import { RoutesPage } from "../features/routes/routes-page";
import { TableView } from "../features/tables/table-view";
import { TablesPage } from "../features/tables/tables-page";
import { WholePage } from "../features/whole/whole-page";
import { Working } from "../features/working/working";
import { usePaths } from "../parts/paths";
import { useJob } from "../sync/job-context";
import { useWide } from "../ui/wide";
import type { Framed } from "./job-frame";

/** The views of a job, each at its address: what the address says becomes what the view is given. */
function Middle({ children }: { children: React.ReactNode }) {
  return <main className="min-w-0 flex-1 overflow-auto">{children}</main>;
}

export function AttentionView() {
  return (
    <Middle>
      <AttentionPage />
    </Middle>
  );
}

export function IntakeView() {
  const [query] = useSearchParams();
  return (
    <Middle>
      <IntakePage field={query.get("field")} />
    </Middle>
  );
}

export function WholeView() {
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const paths = usePaths();
  return (
    <Middle>
      <WholePage
        seek={query.get("part")}
        onCircuit={(id) => navigate(paths.circuit(id))}
        onTable={(number) => navigate(paths.table(number))}
      />
    </Middle>
  );
}

export function RoutesView() {
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const paths = usePaths();
  return (
    <Middle>
      <RoutesPage
        seek={query.get("part")}
        onCircuit={(id) => navigate(paths.circuit(id))}
        onTable={(number) => navigate(paths.table(number))}
      />
    </Middle>
  );
}

export function HistoryView() {
  return (
    <Middle>
      <HistoryPage />
    </Middle>
  );
}

export function TablesView() {
  const { number = null } = useParams();
  const { inputs } = useJob();
  return (
    <Middle>
      <TablesPage ruleset={inputs?.ruleset ?? "bs7671"} number={number} />
    </Middle>
  );
}

export function CircuitView() {
  const { circuitId = "" } = useParams();
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const paths = usePaths();
  const { state, inputs } = useJob();
  const { workingFolded } = useOutletContext<Framed>();
  const [cite, setCite] = useState<Citation | null>(null);
  const wide = useWide();
  const check = query.get("check");
  // biome-ignore lint/correctness/useExhaustiveDependencies: another circuit or check puts the table away
  useEffect(() => setCite(null), [circuitId, check]);
  const working = !workingFolded && (
    <Working result={state?.detail?.id === circuitId ? state.detail : null} check={check} cite={cite} onTable={setCite}>
      {cite && (
        <TableView
          ruleset={inputs?.ruleset ?? "bs7671"}
          number={cite.table}
          lit={{ row: cite.row, column: cite.column }}
          onClose={() => setCite(null)}
        />
      )}
    </Working>
  );
  return (
    <>
      <Middle>
        <CircuitPage
          key={circuitId}
          id={circuitId}
          check={check}
          seek={query.get("seek") === "1"}
          fresh={query.get("new") === "1"}
          onCheck={(id) => navigate(paths.circuit(circuitId, { check: id }), { replace: true })}
        />
        {working && !wide && <div className="border-hair border-t bg-leaf">{working}</div>}
      </Middle>
      {working && wide && (
        <aside className="w-[21.5rem] shrink-0 overflow-auto border-hair border-l bg-leaf">{working}</aside>
      )}
    </>
  );
}
