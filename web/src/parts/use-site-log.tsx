import { notifyManager, type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { Away, reach, who } from "../api/client";
import { writeDown } from "../api/site";
import { useStore } from "../sync/job-context";
import { type NewEntry, type SiteEntry, SiteLog } from "../sync/site-log";
import { askAnew } from "./ask-anew";
import { useAboard } from "./take-along";

const NONE: readonly SiteEntry[] = [];
const nothing = () => () => {};

export interface OnSite {
  /** What was written down here and is not sent yet. */
  waiting: readonly SiteEntry[];
  write: (entry: NewEntry) => string;
  /** The last refusal, in words. */
  why: string;
  /** Who is there, for what this browser keeps for them alone. */
  person: string;
  name: string;
  designs: boolean;
  signs: boolean;
}

/**
 * Wait until what depends on the log was fetched and drawn: only then is an entry no longer laid over it, so that no step shows as undone again.
 * Throws where the server went away meanwhile; the entry is then sent once more, which does no harm.
 */
async function seen(client: QueryClient, job: string) {
  const before = reach.stoodIn();
  try {
    await askAnew(client, ["site", job], true);
  } catch (error) {
    // A view that cannot be worked out says so itself, and is no matter of the entry.
    if (error instanceof Away) throw error;
  }
  if (reach.stoodIn() !== before) throw new Away("Out of date: newer entries have been sent.");
  // What was fetched is told to the views by this same queue, in order.
  await new Promise<void>((drawn) => notifyManager.schedule(drawn));
}

/** The log of the work on site, as pages write to it; what depends on it is asked for again once an entry is stored. Null until it is known who is there. */
export function useSiteLog(): OnSite | null {
  const store = useStore();
  const client = useQueryClient();
  const me = useQuery({ queryKey: ["who"], queryFn: who });
  const person = me.data?.person ?? "";
  const [log, setLog] = useState<SiteLog | null>(null);
  const [why, setWhy] = useState("");
  useEffect(() => {
    if (!person) return;
    const made = new SiteLog(
      person,
      store.job,
      async (entry) => {
        await writeDown(store.job, entry);
        await seen(client, store.job);
      },
      setWhy,
    );
    setLog(made);
    return () => made.close();
  }, [person, store.job, client]);
  const waiting = useSyncExternalStore(log?.subscribe ?? nothing, log?.get ?? (() => NONE));
  if (!log || !me.data) return null;
  return {
    waiting,
    write: (entry) => log.add(entry),
    why,
    person,
    name: me.data.name ?? "",
    designs: me.data.role !== "apprentice",
    signs: me.data.role === "supervisor",
  };
}

/** What still waits here to be sent, and what was refused. Where nothing does its line is empty, but there: what is below must not move away under a thumb. */
export function Unsent({ site }: { site: OnSite }) {
  const count = site.waiting.length;
  const away = useSyncExternalStore(reach.subscribe, reach.get);
  const aboard = useAboard();
  return (
    <>
      <p
        className={`no-print mt-1 min-h-[1.45em] ${count > 0 ? "text-close" : "text-faded"}`}
        role="status"
        data-waiting={count}
      >
        {count === 0
          ? away
            ? "No signal: showing what this device last received"
            : aboard && "This job also opens here without a signal."
          : `${count} ${count === 1 ? "entry waits" : "entries wait"} in this browser, to be sent`}
      </p>
      {site.why && (
        <p role="alert" className="mt-1 text-short">
          {site.why}
        </p>
      )}
    </>
  );
}
