import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import {
  createBrowserRouter,
  Navigate,
  Outlet,
  RouterProvider,
  useLocation,
  useNavigate,
  useParams,
} from "react-router";
import { FirmPage } from "./features/firm/firm-page";
import { JoinPage } from "./features/firm/join-page";
import { YouPage } from "./features/firm/you-page";
import { JobList } from "./features/jobs/job-list";
import { PacksPage } from "./features/packs/packs-page";
import { Caution, SignInPage } from "./features/session/sign-in";
import { SharedPage } from "./features/shared/shared-page";
import { JobFrame } from "./frame/job-frame";
import { TopBar } from "./frame/top-bar";
import {
  AttentionView,
  BoardsView,
  BoardView,
  BooksView,
  CircuitView,
  CoordinationView,
  DemandView,
  EarthingView,
  EndsView,
  ExistingView,
  HistoryView,
  IsolationView,
  MaterialsView,
  PapersView,
  PullView,
  ReadingsView,
  RevisionsView,
  RoutesView,
  StagesView,
  SurveyView,
  TablesView,
  WhatIfView,
} from "./frame/views";
import { pathsOf } from "./parts/paths";
import { useWho } from "./parts/person";
import { SendKept } from "./parts/send-kept";
import { JobProvider } from "./sync/job-context";
import { remembered } from "./ui/remembered";
import { Opening, View } from "./ui/view";

const client = new QueryClient({
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: false, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

/** Show the page to somebody signed in, the door to everybody else. */
function Signed() {
  const me = useWho();
  if (me.isPending) return <p className="p-8 text-faded">One moment …</p>;
  if (me.error)
    return (
      <main>
        <Opening trouble={me.error.message} again={() => void me.refetch()} />
      </main>
    );
  if (!me.data.signed_in) return <SignInPage />;
  return (
    <>
      <SendKept />
      <Outlet />
    </>
  );
}

function JobsRoute() {
  const navigate = useNavigate();
  const me = useWho();
  const lost = (useLocation().state as { lost?: boolean } | null)?.lost === true;
  const shown = me.data?.opens_with;
  const visited = `mellow-span/visited/${me.data?.person}`;
  const [first] = useState(() => !!shown && remembered.get(visited) === null);
  useEffect(() => {
    if (first) remembered.set(visited, "1");
  }, [first, visited]);
  // Not replaced in the history: back leads to the list.
  if (first && shown && !lost) return <Navigate to={pathsOf(shown).attention} />;
  return (
    <>
      <TopBar />
      <View name="the list of jobs">
        <JobList
          key={me.data?.person}
          person={me.data?.person ?? ""}
          firms={me.data?.firms ?? []}
          designs={me.data?.role !== "apprentice"}
          onOpen={(id, started) => navigate(started ? pathsOf(id).survey() : pathsOf(id).attention)}
          caution={<Caution />}
          lost={lost}
        />
      </View>
    </>
  );
}

function JobRoute() {
  const { jobId = "" } = useParams();
  const me = useWho();
  return (
    <View name="the job" reset={jobId}>
      <JobProvider
        key={`${me.data?.person} ${me.data?.role} ${jobId}`}
        id={jobId}
        person={me.data?.person ?? ""}
        proposes={me.data?.role === "apprentice"}
      >
        <JobFrame />
      </JobProvider>
    </View>
  );
}

const PracticePage = lazy(() => import("./features/practice/practice-page").then((m) => ({ default: m.PracticePage })));
const ExercisePage = lazy(() => import("./features/practice/exercise-page").then((m) => ({ default: m.ExercisePage })));
const PaperPage = lazy(() => import("./features/practice/paper-page").then((m) => ({ default: m.PaperPage })));
const PaperResults = lazy(() => import("./features/practice/paper-page").then((m) => ({ default: m.PaperResults })));
const PrintedPaper = lazy(() => import("./features/practice/paper-page").then((m) => ({ default: m.PrintedPaper })));

function PracticeRoute({ page }: { page: "heads" | "exercise" | "paper" | "results" | "print" }) {
  const me = useWho();
  const at = useLocation();
  const person = me.data?.person ?? "";
  return (
    <>
      <TopBar />
      <View name="practice" reset={at.pathname}>
        <Suspense fallback={<Opening />}>
          {page === "heads" && <PracticePage supervises={me.data?.role === "supervisor"} />}
          {page === "exercise" && <ExercisePage person={person} />}
          {page === "paper" && <PaperPage key={at.pathname} person={person} />}
          {page === "results" && <PaperResults />}
          {page === "print" && <PrintedPaper />}
        </Suspense>
      </View>
    </>
  );
}

function PacksRoute() {
  const me = useWho();
  return (
    <Beside name="the tables of your own">
      <PacksPage designs={me.data?.role !== "apprentice"} supervises={me.data?.role === "supervisor"} />
    </Beside>
  );
}

/** A page beside the jobs, with the bar above it. */
function Beside({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <TopBar />
      <View name={name}>{children}</View>
    </>
  );
}

const router = createBrowserRouter([
  { path: "join/:token", element: <JoinPage /> },
  { path: "shared/:token", element: <SharedPage caution={<Caution />} /> },
  {
    element: <Signed />,
    children: [
      { index: true, element: <JobsRoute /> },
      {
        path: "firm",
        element: (
          <Beside name="the firm">
            <FirmPage />
          </Beside>
        ),
      },
      { path: "packs", element: <PacksRoute /> },
      { path: "practice", element: <PracticeRoute page="heads" /> },
      { path: "practice/papers/:paperId", element: <PracticeRoute page="paper" /> },
      { path: "practice/papers/:paperId/results", element: <PracticeRoute page="results" /> },
      { path: "practice/papers/:paperId/print", element: <PracticeRoute page="print" /> },
      { path: "practice/:head", element: <PracticeRoute page="exercise" /> },
      {
        path: "you",
        element: (
          <Beside name="your sign-in">
            <YouPage />
          </Beside>
        ),
      },
      {
        path: "jobs/:jobId",
        element: <JobRoute />,
        children: [
          { index: true, element: <AttentionView /> },
          { path: "survey", element: <SurveyView /> },
          { path: "demand", element: <DemandView /> },
          { path: "boards", element: <BoardsView /> },
          { path: "boards/:boardId", element: <BoardView /> },
          { path: "routes", element: <RoutesView /> },
          { path: "earthing", element: <EarthingView /> },
          { path: "coordination", element: <CoordinationView /> },
          { path: "what-if", element: <WhatIfView /> },
          { path: "books", element: <BooksView /> },
          { path: "history", element: <HistoryView /> },
          { path: "pulls", element: <PullView /> },
          { path: "stages", element: <StagesView /> },
          { path: "materials", element: <MaterialsView /> },
          { path: "ends", element: <EndsView /> },
          { path: "revisions", element: <RevisionsView /> },
          { path: "papers", element: <PapersView /> },
          { path: "existing", element: <ExistingView /> },
          { path: "tests", element: <ReadingsView /> },
          { path: "isolation", element: <IsolationView /> },
          { path: "circuits/:circuitId", element: <CircuitView /> },
          { path: "tables", element: <TablesView /> },
          { path: "tables/:number", element: <TablesView /> },
          // Addresses of views as they were called before.
          { path: "intake", element: <Navigate to="../survey" replace /> },
          { path: "whole", element: <Navigate to="../boards" replace /> },
        ],
      },
      { path: "*", element: <Navigate to="/" replace state={{ lost: true }} /> },
    ],
  },
]);

export function App() {
  return (
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  );
}
