import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import type { Rules } from "../../api/types";
import { Engine } from "../engine";
import { JobProvider } from "../job-context";
import { Browser, Shelves } from "./browser";
import type { FakeServer } from "./fake-server";

const rules = { fields: [], devices: [], families: [], places: [], laid: [], ratings: [] } as unknown as Rules;

/** Draw part of a job's page on a fake server; gives the engine behind it. */
export function renderInJob(children: ReactNode, server: FakeServer, person = "me") {
  const shelves = new Shelves();
  const browser = new Browser();
  const made: { engine: Engine | null } = { engine: null };
  let count = 0;
  const make = (id: string, who: string) => {
    const engine = new Engine(id, who, server.remoteOf(who), shelves.for(who), browser.tabs(), () => `e${++count}`);
    made.engine = engine;
    return engine;
  };
  const element = (
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <JobProvider id="j" person={person} rules={rules} make={make}>
        {children}
      </JobProvider>
    </QueryClientProvider>
  );
  const router = createMemoryRouter([{ path: "/jobs/:jobId/*", element }], { initialEntries: ["/jobs/j"] });
  const page = render(<RouterProvider router={router} />);
  return {
    ...page,
    router,
    engine: () => {
      if (!made.engine) throw new Error("not opened yet");
      return made.engine;
    },
  };
}
