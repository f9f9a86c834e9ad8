import { useMemo } from "react";
import type { Circuit, Span } from "../api/types";
import { useJob, useRules } from "../sync/job-context";
import { asItLies, sharedFields } from "./routes";

const NONE: readonly never[] = [];

/** The routes of the job, the fields that spans take from them, and spans as they lie. */
export function useRoutes() {
  const { inputs } = useJob();
  const rules = useRules();
  const routes = inputs?.routes ?? NONE;
  const shared = useMemo(() => sharedFields(rules), [rules]);
  return {
    routes,
    shared,
    lying: (span: Span) => asItLies(span, routes, shared),
    /** The other circuits in a route, by name. */
    others: (route: string, but: string) =>
      (inputs?.circuits ?? [])
        .filter((c: Circuit) => c.id !== but && c.run.spans.some((s) => s.route === route))
        .map((c) => c.name || "an unnamed circuit"),
  };
}
