import { notifyManager, type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { Away, reach } from "../api/client";
import { local } from "../engine/local";
import { useJob, useStore } from "../sync/job-context";
import { askToKeep, roomShort } from "../sync/room";
import { attended, ofJob, SiteLog, type SiteState } from "../sync/site/log";
import { siteRemote } from "../sync/site/remote";
import type { NewEntry, SiteEntry } from "../sync/site/state";
import { Ask } from "../ui/ask";
import { clockOf, dayOf } from "../ui/time";
import { askAnew } from "./ask-anew";
import { useWho } from "./person";
import { useAboard } from "./take-along";
import { UNSENT } from "./words";

const NOTHING: SiteState = { waiting: [], refused: [], keeping: [], unkept: [] };
const nothing = () => () => {};

export interface OnSite extends SiteState {
  write: (entry: NewEntry) => string;
  /** Send one that was not accepted again, or give it up. */
  again: (id: string) => void;
  discard: (id: string) => void;
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
  const me = useWho();
  const person = me.data?.person ?? "";
  const [log, setLog] = useState<SiteLog | null>(null);
  useEffect(() => {
    if (!person) return;
    const made = new SiteLog(
      person,
      store.job,
      siteRemote(store.job, () => seen(client, store.job)),
    );
    made.onStranger = () => void client.invalidateQueries({ queryKey: ["who"] });
    setLog(made);
    attended.add(ofJob(person, store.job));
    // Whoever asks the server first finds it there again; what waits here goes out with that.
    const there = reach.subscribe(() => reach.get() || made.again());
    return () => {
      there();
      attended.delete(ofJob(person, store.job));
      made.close();
    };
  }, [person, store.job, client]);
  const state = useSyncExternalStore(log?.subscribe ?? nothing, log?.get ?? (() => NOTHING));
  const name = me.data?.name ?? "";
  const waiting = state.waiting.map((e) => e.id).join();
  // What this device works out without a server is worked out with what waits here.
  // biome-ignore lint/correctness/useExhaustiveDependencies: an entry never changes under its identity
  useEffect(() => {
    local.writes(store.job, state.waiting, name);
    if (local.ready && reach.get()) void client.invalidateQueries({ queryKey: ["site", store.job] });
  }, [store.job, waiting, name, client]);
  if (!log || !me.data) return null;
  return {
    ...state,
    write: (entry) => {
      askToKeep();
      return log.add(entry);
    },
    again: (id) => log.resend(id),
    discard: (id) => log.discard(id),
    person,
    name: me.data.name ?? "",
    designs: me.data.role !== "apprentice",
    signs: me.data.role === "supervisor",
  };
}

/** What still waits here to be sent, and what was refused. Where nothing does its line is empty, but there: what is below must not move away under a thumb. */
export function Unsent({ site }: { site: OnSite }) {
  // What is not kept yet would be lost with the page: it is not told as waiting here.
  const count = site.waiting.length - site.keeping.length;
  const away = useSyncExternalStore(reach.subscribe, reach.get);
  const aboard = useAboard();
  const { phase: works } = useSyncExternalStore(local.subscribe, local.get);
  const [short, setShort] = useState<number | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each entry takes room
  useEffect(() => {
    let there = true;
    void roomShort().then((left) => there && setShort(left));
    return () => {
      there = false;
    };
  }, [count]);
  return (
    <>
      <p
        className={`no-print mt-1 min-h-[1.45em] ${count > 0 ? "text-close" : "text-faded"}`}
        role="status"
        data-waiting={count}
      >
        {count === 0
          ? away
            ? works === "ready"
              ? UNSENT.workedOutHere
              : "No signal: showing what this device last received"
            : aboard && "This job also opens here without a signal."
          : `${count} ${count === 1 ? "entry waits" : "entries wait"} in this browser, to be sent`}
      </p>
      {short !== null && (
        <p role="status" className="mt-1 text-close" data-room>
          {UNSENT.room(short)}
        </p>
      )}
      {site.unkept.length > 0 && (
        <p role="alert" className="mt-1 text-short">
          {UNSENT.unkept(site.unkept.length)}
        </p>
      )}
      {site.refused.length > 0 && <NotAccepted site={site} />}
    </>
  );
}

/** What the server did not accept: kept here with the reason, to be sent again, saved as a file or given up. */
function NotAccepted({ site }: { site: OnSite }) {
  const [sure, setSure] = useState<string | null>(null);
  const { inputs } = useJob();
  const parts = [...(inputs?.circuits ?? []), ...(inputs?.boards ?? []), ...(inputs?.routes ?? [])];
  const named = (subject: string | null) => parts.find((p) => p.id === subject)?.name;
  const file = `data:application/json;charset=utf-8,${encodeURIComponent(JSON.stringify(site.refused, null, 1))}`;
  return (
    <section className="no-print mt-2 border-short border-l-4 pl-3" aria-label={UNSENT.notAccepted} data-refused>
      <h2 className="font-semibold">{UNSENT.notAccepted}</h2>
      <p>{UNSENT.theyStay}</p>
      <ul>
        {site.refused.map(({ entry, why }) => (
          <li key={entry.id} className="border-hair border-t py-1">
            <strong>{[named(entry.subject), entryText(entry)].filter(Boolean).join(": ")}</strong>, {dayOf(entry.at)}{" "}
            {clockOf(entry.at)}: <span className="text-short">{why}</span>{" "}
            <button type="button" className="word min-h-6" onClick={() => site.again(entry.id)}>
              {UNSENT.sendAgain}
            </button>{" "}
            <button type="button" className="word min-h-6" onClick={() => setSure(entry.id)}>
              {UNSENT.discard}
            </button>
          </li>
        ))}
      </ul>
      <a className="word inline-block py-1" href={file} download="not-accepted.json">
        {UNSENT.saveFile}
      </a>
      <Ask
        open={sure !== null}
        title={UNSENT.discardTitle}
        say={UNSENT.discardSay}
        yes={UNSENT.discard}
        onYes={() => {
          if (sure) site.discard(sure);
          setSure(null);
        }}
        onClose={() => setSure(null)}
      />
    </section>
  );
}

/** What an entry was, in a few words. */
function entryText({ kind, data }: SiteEntry): string {
  const said = UNSENT.kinds[kind] ?? kind.replaceAll("_", " ");
  const of = data.quantity ?? data.step ?? data.text ?? data.what ?? data.name;
  return [said, of, data.point && `at ${data.point}`, data.value].filter((x) => x || x === 0).join(" ");
}
