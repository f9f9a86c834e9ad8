import { useQuery } from "@tanstack/react-query";
import { routesOf } from "../../api/client";
import type { Cited } from "../../api/types";
import { change, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { Opening } from "../../ui/view";
import { RouteSection } from "./route-section";

interface Props {
  /** The route to go to. */
  seek: string | null;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

/** The routes of the house: surroundings belong to the building, and whoever lies in a stretch shares them. */
export function RoutesPage({ seek, onCircuit, onTable }: Props) {
  const store = useStore();
  const { state, inputs, unsent } = useJob();
  const found = useQuery({
    queryKey: ["routes", store.job, state?.version],
    queryFn: () => routesOf(store.job),
    enabled: state !== null && unsent === 0,
    placeholderData: (before) => before,
    retry: false,
  });
  if (!inputs) return <Opening />;
  const names = new Map(inputs.circuits.map((c) => [c.id, c.name || "Unnamed circuit"]));
  return (
    <div className="max-w-5xl px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">Routes</h1>
      <p className="mt-1 text-faded">
        A stretch of the building that cables share: its surroundings are entered once, and who lies in it is its group.
      </p>
      {found.error && <p className="mt-3 text-short">{found.error.message}</p>}
      {inputs.routes.length === 0 && (
        <p className="mt-4 max-w-prose">
          There is none yet. Add one here, or open “alone” in the sentence of a span and choose the stretch of another
          circuit it runs beside.
        </p>
      )}
      {inputs.routes.map((route) => (
        <RouteSection
          key={route.id}
          sought={seek === route.id}
          route={route}
          found={found.data?.find((one) => one.view.id === route.id)}
          names={names}
          onCircuit={onCircuit}
          onTable={onTable}
        />
      ))}
      <Button
        className="mt-5"
        onClick={() => store.edit([change("add", "route", crypto.randomUUID(), { fields: { name: "New route" } })])}
      >
        add a route, conduit or trunking
      </Button>
    </div>
  );
}
