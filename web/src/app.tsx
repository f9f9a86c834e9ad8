import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { createBrowserRouter, RouterProvider, useNavigate, useParams } from "react-router";
import { rules, who } from "./api/client";
import { JobList } from "./features/jobs/job-list";
import { Caution, SignInPage } from "./features/session/sign-in";
import { JobPage } from "./frame/job-page";
import { TopBar } from "./frame/top-bar";
import { JobProvider } from "./state/job-context";

const client = new QueryClient({
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: false, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

/** Show the page to somebody signed in, the door to everybody else. */
function Signed({ children }: { children: ReactNode }) {
  const me = useQuery({ queryKey: ["who"], queryFn: who, retry: 3 });
  if (me.isPending) return <p className="p-8 text-faded">One moment …</p>;
  if (me.error)
    return (
      <main className="p-8">
        <h1 className="font-semibold text-xl">{me.error.message}</h1>
        <button type="button" className="word mt-3" onClick={() => void me.refetch()}>
          try again
        </button>
      </main>
    );
  return me.data.signed_in ? children : <SignInPage />;
}

function JobsRoute() {
  const navigate = useNavigate();
  return (
    <Signed>
      <TopBar />
      <JobList onOpen={(id) => navigate(`/jobs/${id}`)} caution={<Caution />} />
    </Signed>
  );
}

function JobRoute() {
  return (
    <Signed>
      <WithRules />
    </Signed>
  );
}

function WithRules() {
  const { jobId = "" } = useParams();
  // The choices of the inputs are those of the rule set; there is one so far, and a job names its own.
  const found = useQuery({
    queryKey: ["rules", "bs7671"],
    queryFn: () => rules("bs7671"),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (found.isPending) return <p className="p-8 text-faded">Opening the rules …</p>;
  if (found.error)
    return (
      <p role="alert" className="p-8 text-short">
        {found.error.message}{" "}
        <button type="button" className="word" onClick={() => void found.refetch()}>
          try again
        </button>
      </p>
    );
  return (
    <JobProvider key={jobId} id={jobId} rules={found.data}>
      <JobPage />
    </JobProvider>
  );
}

const router = createBrowserRouter([
  { path: "/jobs/:jobId/circuits/:circuitId", element: <JobRoute /> },
  { path: "/jobs/:jobId/*", element: <JobRoute /> },
  { path: "*", element: <JobsRoute /> },
]);

export function App() {
  return (
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  );
}
