import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { jobTests } from "../../api/site";
import { usePaths } from "../../parts/paths";
import { useJob, useStore } from "../../sync/job-context";
import { Mark, TONE } from "../../ui/verdict";
import { READ_ON_SITE } from "./words";

/** The boards and circuits with test results to query; null where that is not known yet. */
export function useToQuery() {
  const store = useStore();
  const { state, asOf } = useJob();
  const found = useQuery({
    queryKey: ["site", store.job, "tests", asOf],
    queryFn: () => jobTests(store.job),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  return found.data ? [...found.data.boards, ...found.data.circuits].filter((c) => c.off > 0) : null;
}

/** What was read on site and is not as it should be. The design may meet every check: what stands in the wall is what was read. */
export function ReadOnSite() {
  const paths = usePaths();
  const off = useToQuery() ?? [];
  if (off.length === 0) return null;
  return (
    <section className="mt-6" aria-label={READ_ON_SITE.testResultsQuery}>
      <h2 className={`flex items-center gap-2 font-semibold ${TONE.short}`}>
        <Mark verdict="short" size={16} />
        Test results to query
      </h2>
      <ul className="mt-1">
        {off.map((c) => (
          <li key={c.circuit} className="border-hair border-t">
            <Link
              className="grid w-full grid-cols-[12rem_1fr] gap-3 py-2 text-left hover:bg-lit max-sm:grid-cols-1 max-sm:gap-0"
              to={paths.tests(c.circuit)}
              data-off={c.circuit}
            >
              <span className="font-semibold">{c.name}</span>
              <span>
                {c.off} of {c.tests - c.left} {c.tests - c.left === 1 ? "test result" : "test results"} to query: see
                what {c.off === 1 ? "it points" : "they point"} to
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
