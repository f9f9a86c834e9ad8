import { useQuery } from "@tanstack/react-query";
import { routesOf } from "../../api/client";
import type { Cited } from "../../api/types";
import { change, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { Opening } from "../../ui/view";
import { RouteSection } from "./route-section";
import { ROUTES } from "./words";

interface Props {
  /** The route to go to. */
  seek: string | null;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

/** The routes of the house: surroundings belong to the building, and whoever lies in a stretch shares them. */
export function RoutesPage({ seek, onCircuit, onTable }: Props) {
  const store = useStore();
  const { inputs, asOf, settled } = useJob();
  const found = useQuery({
    queryKey: ["routes", store.job, asOf],
    queryFn: () => routesOf(store.job),
    enabled: settled,
    placeholderData: (before) => before,
    retry: false,
  });
  if (!inputs) return <Opening />;
  const names = new Map(inputs.circuits.map((c) => [c.id, c.name || "Unnamed circuit"]));
  return (
    <div className="max-w-5xl px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">{ROUTES.cableRoutes}</h1>
      <p className="mt-1 text-faded">{ROUTES.partBuildingCables}</p>
      {found.error && <p className="mt-3 text-short">{found.error.message}</p>}
      {inputs.routes.length === 0 && <p className="mt-4 max-w-prose">{ROUTES.noneYetAdd}</p>}
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
        {ROUTES.addRouteConduit}
      </Button>
    </div>
  );
}
