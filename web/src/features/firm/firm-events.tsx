import { useInfiniteQuery } from "@tanstack/react-query";
import { firmEvents } from "../../api/client";
import { Button } from "../../ui/controls";
import { clockOf, dayOf } from "../../ui/time";
import { FIRM_EVENTS } from "./words";

/** What happened in the firm, newest first: for a supervisor. */
export function FirmEvents() {
  const found = useInfiniteQuery({
    queryKey: ["firm-events"],
    queryFn: ({ pageParam }) => firmEvents(pageParam),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (page) => (page.more ? page.events.at(-1)?.id : undefined),
  });
  const events = found.data?.pages.flatMap((page) => page.events) ?? [];
  return (
    <section className="mt-8" aria-label={FIRM_EVENTS.activity}>
      <h2 className="font-semibold text-xl">{FIRM_EVENTS.activity}</h2>
      <p className="mt-1 text-faded">{FIRM_EVENTS.signInsFiles}</p>
      {found.error && <p className="text-short">{found.error.message}</p>}
      <ul className="mt-2">
        {events.map((e) => (
          <li
            key={e.id}
            data-event={e.kind}
            className="grid grid-cols-[11rem_1fr] gap-x-3 border-hair border-t py-1 max-sm:grid-cols-1"
          >
            <span className="text-faded">
              {dayOf(e.at)}, {clockOf(e.at)}
            </span>
            <span>
              {e.kind === "refused" ? `${e.told} for ${e.by}` : `${e.by} ${e.told}`}
              {e.about && <span className="text-faded">: {e.about}</span>}
            </span>
          </li>
        ))}
      </ul>
      {found.hasNextPage && (
        <p className="mt-2">
          <Button onClick={() => void found.fetchNextPage()}>older</Button>
        </p>
      )}
    </section>
  );
}
