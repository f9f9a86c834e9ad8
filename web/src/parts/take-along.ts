import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useSyncExternalStore } from "react";
import { overview, reach } from "../api/client";
import { thin } from "../api/kept";
import {
  boardTests,
  circuitTests,
  endsOf,
  existing,
  isolationPlan,
  isolations,
  jobTests,
  materials,
  paperLook,
  papers,
  pullList,
  revisions,
  siteEntries,
  siteRules,
} from "../api/site";
import { local } from "../engine/local";
import { hasRoom, isSpared } from "../engine/spared";
import { useJob, useStore } from "../sync/job-context";

/** How long a job has to lie still before it is taken along [ms]: at first, and after an edit. */
const FIRST = 3000;
const AFTER = 45_000;
const LONGEST_REST = 3000;
/** Of a very large job so many pages are looked at; the others are kept once they are gone to. */
const MOST = 200;
/** Jobs that open here without a server, as they were at a version. */
const aboard = (() => {
  const versions = new Map<string, number>();
  const listeners = new Set<() => void>();
  return {
    get: (job: string) => versions.get(job),
    set(job: string, version: number) {
      versions.set(job, version);
      for (const listener of listeners) listener();
    },
    forget(job: string) {
      versions.delete(job);
      for (const listener of listeners) listener();
    },
    subscribe: (listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
})();

/** Whether the open job opens on this device without a signal. */
export function useAboard() {
  const store = useStore();
  return useSyncExternalStore(aboard.subscribe, () => aboard.get(store.job) !== undefined);
}

/** Look at every page of a job that is of use without a signal, one after the other, so that each is kept on this device. */
async function takeAlong(job: string, stages: readonly string[], still: () => boolean) {
  // The page itself has to be laid up too; where a browser does not do that, nothing is asked for that could not be opened.
  if ("serviceWorker" in navigator && import.meta.env.PROD) await navigator.serviceWorker.ready;
  else return false;
  // What works the job out here goes first: with it the rest can be worked out as well.
  await local.bring(job);
  if (hasRoom()) await local.wake();
  const [tests, places] = [await jobTests(job), await isolations(job)];
  const asks: (() => Promise<unknown>)[] = [
    ...[pullList, materials, endsOf, existing, revisions, siteEntries, overview].map((ask) => () => ask(job)),
    siteRules,
    ...tests.circuits.map((c) => () => circuitTests(job, c.circuit)),
    ...tests.boards.map((b) => () => boardTests(job, b.circuit)),
    // What feeds a place may differ from stage to stage: each has a plan of its own.
    ...(stages.length > 0 ? stages : [""]).flatMap((stage) =>
      places.targets.map((t) => () => isolationPlan(job, t.kind, t.id, stage)),
    ),
    async () => {
      for (const kind of await papers(job, 0))
        if (kind.all || kind.choices.length === 0) await paperLook(job, kind.id, "", 0);
    },
  ];
  for (const ask of asks.slice(0, MOST)) {
    if (!still() || reach.get() || isSpared()) return false;
    const began = Date.now();
    // What cannot be worked out is told where it is looked at.
    await ask().catch(() => undefined);
    // As long a rest as it took: what somebody looks at meanwhile is not behind all of this.
    await new Promise((wake) => setTimeout(wake, Math.min(Date.now() - began, LONGEST_REST)));
  }
  return asks.length <= MOST;
}

/** Keeps what a job is like on this device while it is open and nothing changes. */
export function useTakeAlong() {
  const store = useStore();
  const client = useQueryClient();
  const { state, inputs } = useJob();
  const stages = useRef<readonly string[]>([]);
  stages.current = inputs?.stages.map((s) => s.id) ?? [];
  const version = state?.version;
  // Once the server is there again, what is shown is asked for anew.
  useEffect(() => {
    const stop = reach.subscribe(() => {
      if (!reach.get()) void client.invalidateQueries();
    });
    // Without one, what this device works out takes the place of what it was told last.
    const still = local.subscribe(() => {
      if (reach.get() && local.ready) void client.invalidateQueries();
    });
    return () => {
      stop();
      still();
    };
  }, [client]);
  // After a backup was put back a version means another state: nothing that was answered before is shown for it.
  const epoch = state?.epoch;
  const known = useRef(epoch);
  useEffect(() => {
    if (epoch !== undefined && known.current !== undefined && known.current !== epoch) {
      aboard.forget(store.job);
      void client.resetQueries({ predicate: ({ queryKey }) => queryKey[0] !== "who" });
    }
    known.current = epoch ?? known.current;
  }, [client, epoch, store.job]);
  useEffect(() => {
    if (version === undefined || aboard.get(store.job) === version || isSpared()) return;
    let still = true;
    const timer = setTimeout(
      () => {
        void takeAlong(store.job, stages.current, () => still)
          .then((whole) => {
            if (whole) aboard.set(store.job, version);
            return thin(store.person);
          })
          .catch(() => undefined);
      },
      aboard.get(store.job) === undefined ? FIRST : AFTER,
    );
    return () => {
      still = false;
      clearTimeout(timer);
    };
  }, [store, version]);
}
