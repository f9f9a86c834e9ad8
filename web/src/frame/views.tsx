import { type ComponentType, lazy, Suspense, useEffect, useState } from "react";
import { useLocation, useNavigate, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Citation, Cited } from "../api/types";
import { AttentionPage } from "../features/attention/attention-page";
import { CircuitPage } from "../features/circuit/circuit-page";
import { TableView } from "../features/tables/table-view";
import { Working } from "../features/working/working";
import { usePaths } from "../parts/paths";
import { useJob, useRules } from "../sync/job-context";
import { Opening } from "../ui/view";
import { useWide } from "../ui/wide";
import type { Framed } from "./job-frame";
import { VIEWS } from "./words";

/** A view that is fetched when it is first gone to; what most people see first comes with the page. */
function later<P extends object>(load: () => Promise<ComponentType<P>>) {
  return lazy(() => load().then((found) => ({ default: found })));
}

const SurveyPage = later(() => import("../features/survey/survey-page").then((m) => m.SurveyPage));
const DemandPage = later(() => import("../features/demand/demand-page").then((m) => m.DemandPage));
const BoardsPage = later(() => import("../features/boards/boards-page").then((m) => m.BoardsPage));
const BoardPage = later(() => import("../features/boards/board-page").then((m) => m.BoardPage));
const RoutesPage = later(() => import("../features/routes/routes-page").then((m) => m.RoutesPage));
const EarthingPage = later(() => import("../features/earthing/earthing-page").then((m) => m.EarthingPage));
const CoordinationPage = later(() =>
  import("../features/coordination/coordination-page").then((m) => m.CoordinationPage),
);
const WhatIfPage = later(() => import("../features/what-if/what-if-page").then((m) => m.WhatIfPage));
const BooksPage = later(() => import("../features/books/books-page").then((m) => m.BooksPage));
const HistoryPage = later(() => import("../features/history/history-page").then((m) => m.HistoryPage));
const PullPage = later(() => import("../features/site/pull-page").then((m) => m.PullPage));
const MaterialsPage = later(() => import("../features/site/materials-page").then((m) => m.MaterialsPage));
const EndsPage = later(() => import("../features/site/ends-page").then((m) => m.EndsPage));
const IsolationPage = later(() => import("../features/site/isolation-page").then((m) => m.IsolationPage));
const ReadingsPage = later(() => import("../features/site/readings-page").then((m) => m.ReadingsPage));
const ExistingPage = later(() => import("../features/site/existing-page").then((m) => m.ExistingPage));
const RevisionsPage = later(() => import("../features/site/revisions-page").then((m) => m.RevisionsPage));
const PapersPage = later(() => import("../features/papers/papers-page").then((m) => m.PapersPage));
const StagesPage = later(() => import("../features/stages/stages-page").then((m) => m.StagesPage));
const TablesPage = later(() => import("../features/tables/tables-page").then((m) => m.TablesPage));

/** The views of a job, each at its address: what the address says becomes what the view is given. */
function Middle({ children }: { children: React.ReactNode }) {
  return (
    // What is hidden from the eye stands within it, so that nothing scrolls but this.
    <main tabIndex={-1} className="relative min-w-0 flex-1 overflow-auto outline-none">
      <Suspense fallback={<Opening />}>{children}</Suspense>
    </main>
  );
}

/** Where the views of a job lead to each other. */
function useWays() {
  const navigate = useNavigate();
  const paths = usePaths();
  return {
    onCircuit: (id: string) => navigate(paths.circuit(id)),
    onTable: (cite: Cited) => navigate(paths.table(cite.table, cite), { state: { back: true } }),
  };
}

export function AttentionView() {
  return (
    <Middle>
      <AttentionPage {...useWays()} />
    </Middle>
  );
}

export function SurveyView() {
  const [query] = useSearchParams();
  return (
    <Middle>
      <SurveyPage field={query.get("field")} {...useWays()} />
    </Middle>
  );
}

export function DemandView() {
  const [query, setQuery] = useSearchParams();
  return (
    <Middle>
      <DemandPage
        client={query.get("client") === "1"}
        onClient={(on) => setQuery(on ? { client: "1" } : {})}
        {...useWays()}
      />
    </Middle>
  );
}

export function BoardsView() {
  const [query] = useSearchParams();
  return (
    <Middle>
      <BoardsPage sizes={query.get("sizes") === "1"} {...useWays()} />
    </Middle>
  );
}

export function BoardView() {
  const { boardId = "" } = useParams();
  return (
    <Middle>
      <BoardPage key={boardId} id={boardId} {...useWays()} />
    </Middle>
  );
}

export function RoutesView() {
  const [query] = useSearchParams();
  return (
    <Middle>
      <RoutesPage seek={query.get("part")} {...useWays()} />
    </Middle>
  );
}

export function EarthingView() {
  const [query] = useSearchParams();
  return (
    <Middle>
      <EarthingPage seek={query.get("part")} {...useWays()} />
    </Middle>
  );
}

export function CoordinationView() {
  const [query, setQuery] = useSearchParams();
  return (
    <Middle>
      <CoordinationPage
        circuit={query.get("circuit")}
        onChoose={(id) => setQuery({ circuit: id }, { replace: true })}
        {...useWays()}
      />
    </Middle>
  );
}

export function WhatIfView() {
  return (
    <Middle>
      <WhatIfPage {...useWays()} />
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

export function PullView() {
  return (
    <Middle>
      <PullPage />
    </Middle>
  );
}

export function MaterialsView() {
  return (
    <Middle>
      <MaterialsPage />
    </Middle>
  );
}

export function EndsView() {
  return (
    <Middle>
      <EndsPage />
    </Middle>
  );
}

export function IsolationView() {
  const [query, setQuery] = useSearchParams();
  return (
    <Middle>
      <IsolationPage
        kind={query.get("kind") ?? ""}
        id={query.get("id") ?? ""}
        onChoose={(kind, id) => setQuery(kind ? { kind, id } : {}, { replace: true })}
      />
    </Middle>
  );
}

export function ReadingsView() {
  const [query, setQuery] = useSearchParams();
  return (
    <Middle>
      <ReadingsPage circuit={query.get("circuit")} onChoose={(circuit) => setQuery(circuit ? { circuit } : {})} />
    </Middle>
  );
}

export function ExistingView() {
  return (
    <Middle>
      <ExistingPage />
    </Middle>
  );
}

export function RevisionsView() {
  return (
    <Middle>
      <RevisionsPage />
    </Middle>
  );
}

export function PapersView() {
  const [query, setQuery] = useSearchParams();
  return (
    <Middle>
      <PapersPage
        paper={query.get("paper") ?? ""}
        subject={query.get("subject") ?? ""}
        revision={Number(query.get("revision") ?? 0) || 0}
        onChoose={(chosen) =>
          setQuery(
            Object.fromEntries(
              Object.entries(chosen)
                .filter(([, value]) => value)
                .map(([name, value]) => [name, String(value)]),
            ),
            { replace: true },
          )
        }
      />
    </Middle>
  );
}

export function BooksView() {
  const [query, setQuery] = useSearchParams();
  return (
    <Middle>
      <BooksPage other={query.get("book")} onOther={(book) => setQuery({ book }, { replace: true })} />
    </Middle>
  );
}

export function TablesView() {
  const { number = null } = useParams();
  const [query, setQuery] = useSearchParams();
  const rules = useRules();
  const at = useLocation();
  const navigate = useNavigate();
  const [row, column] = [query.get("row"), query.get("column")];
  return (
    <Middle>
      <TablesPage
        ruleset={rules.id}
        number={number}
        lit={row !== null && column !== null ? { row, column } : undefined}
        words={query.get("words") ?? ""}
        onWords={(words) => setQuery(words ? { words } : {}, { replace: true })}
        onBack={at.state?.back ? () => navigate(-1) : undefined}
      />
    </Middle>
  );
}

export function CircuitView() {
  const { circuitId = "" } = useParams();
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const paths = usePaths();
  const { state } = useJob();
  const rules = useRules();
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
          ruleset={rules.id}
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
        {working && !wide && <div className="no-print border-hair border-t bg-leaf">{working}</div>}
      </Middle>
      {working && wide && (
        <aside
          aria-label={VIEWS.working}
          className="no-print w-[21.5rem] shrink-0 overflow-auto border-hair border-l bg-leaf"
        >
          {working}
        </aside>
      )}
    </>
  );
}

export function StagesView() {
  return (
    <Middle>
      <StagesPage {...useWays()} />
    </Middle>
  );
}
