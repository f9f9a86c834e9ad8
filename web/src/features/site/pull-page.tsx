import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { type PullLine, type PullList, pullList, setSlack, tickOff, who } from "../../api/client";
import { useJob, useStore } from "../../sync/job-context";
import { type Tick, Ticks } from "../../sync/ticks";
import { NumberField } from "../../ui/editors";
import { glued, quantity } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";

const SLACK = { lo: 0, hi: 20, unit: "m" };

/** The pull list on site: every cable numbered, with the length to cut, in the order of pulling; ticked off with a thumb, also without a signal. */
export function PullPage() {
  const store = useStore();
  const client = useQueryClient();
  const { state } = useJob();
  const me = useQuery({ queryKey: ["who"], queryFn: who });
  const key = useMemo(() => ["pulls", store.job], [store.job]);
  const found = useQuery({
    queryKey: [...key, state?.version],
    queryFn: () => pullList(store.job),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  const [why, setWhy] = useState("");
  const [ticks, setTicks] = useState<Ticks | null>(null);
  const person = me.data?.person ?? "";
  useEffect(() => {
    if (!person) return;
    const made = new Ticks(
      person,
      store.job,
      async (tick) => {
        client.setQueriesData({ queryKey: key }, await tickOff(store.job, tick));
      },
      setWhy,
    );
    setTicks(made);
    return () => made.close();
  }, [person, store.job, client, key]);
  if (found.isPending || !ticks) return <p className="p-8 text-faded">Working the pull list out …</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  return (
    <Shown
      list={found.data}
      ticks={ticks}
      why={why}
      designs={me.data?.role !== "apprentice"}
      name={me.data?.name ?? ""}
      onSlack={async (slack) => {
        await setSlack(slack);
        await client.invalidateQueries({ queryKey: key });
      }}
    />
  );
}

interface ShownProps {
  list: PullList;
  ticks: Ticks;
  why: string;
  designs: boolean;
  name: string;
  onSlack: (slack: PullList["slack"]) => Promise<void>;
}

function Shown({ list, ticks, why, designs, name, onSlack }: ShownProps) {
  const waiting = useSyncExternalStore(ticks.subscribe, ticks.get);
  const lines = list.lines.map((line) => laidOver(line, waiting, name));
  const done = lines.filter((l) => l.done).length;
  const lots = [...new Set(lines.map((l) => l.pull.bundle))];
  const say = (tick: Omit<Tick, "at">) => ticks.add({ ...tick, at: new Date().toISOString() });
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">Pull list</h1>
      <p className="mt-1" role="status">
        <strong>
          {done} of {lines.length} pulled in.
        </strong>{" "}
        <span className="text-faded">
          Cables of one lot lie in the same routes and go in together; the hardest come first.
        </span>
      </p>
      {waiting.length > 0 && (
        <p className="mt-1 text-close">
          {waiting.length} {waiting.length === 1 ? "tick waits" : "ticks wait"} in this browser and will be sent by
          themselves.
        </p>
      )}
      {why && (
        <p role="alert" className="mt-1 text-short">
          {why}
        </p>
      )}
      {lots.map((lot) => {
        const these = lines.filter((l) => l.pull.bundle === lot);
        const routes = these[0]?.pull.routes ?? [];
        return (
          <section key={lot} className="mt-4" aria-label={`Lot ${lot}`}>
            {(these.length > 1 || routes.length > 0) && (
              <h2 className="text-faded">Together{routes.length > 0 && `, by ${routes.join(", ")}`}</h2>
            )}
            <ul>
              {these.map((line) => (
                <Line key={line.pull.circuit} line={line} onSay={say} />
              ))}
            </ul>
          </section>
        );
      })}
      <section className="mt-6" aria-label="How much of each cable">
        <h2 className="font-semibold text-xl">How much of each cable</h2>
        <ul className="mt-1">
          {list.sums.map((sum) => (
            <li key={sum.cable} className="flex flex-wrap gap-x-3 border-hair border-t py-1">
              <span className="flex-1">{glued(sum.cable)}</span>
              <span className="figure">{quantity(sum.metres, "m")}</span>
              <span className="text-faded">
                {sum.pieces} {sum.pieces === 1 ? "piece" : "pieces"}
                {sum.pieces > 1 && `, the longest ${quantity(sum.longest, "m")}`}
                {sum.unknown > 0 && `, and ${sum.unknown} whose length is not known`}
              </span>
            </li>
          ))}
        </ul>
      </section>
      <section className="no-print mt-6 max-w-xl" aria-label="What is cut more">
        <h2 className="font-semibold text-xl">What is cut more than a run is long</h2>
        <p className="text-faded">The rule of the firm, for all its jobs.</p>
        <div className="mt-1 grid grid-cols-3 gap-3 max-sm:grid-cols-1">
          {(
            [
              ["board", "at a board"],
              ["end", "at another end"],
              ["undecided", "at an end not decided"],
            ] as const
          ).map(([field, title]) =>
            designs ? (
              <NumberField
                key={field}
                label={title}
                value={list.slack[field]}
                limits={SLACK}
                onSave={(value) => value !== null && void onSlack({ ...list.slack, [field]: value })}
              />
            ) : (
              <p key={field}>
                {title} <span className="figure">{quantity(list.slack[field], "m")}</span>
              </p>
            ),
          )}
        </div>
      </section>
    </div>
  );
}

interface Marked extends PullLine {
  unsent: boolean;
}

/** A line with what was ticked off here and is not sent yet laid over it. */
function laidOver(line: PullLine, waiting: readonly Tick[], name: string): Marked {
  const mine = waiting.filter((t) => t.circuit === line.pull.circuit);
  const last = mine.findLast((t) => t.done !== undefined);
  const open = mine.findLast((t) => t.undecided !== undefined)?.undecided ?? line.pull.open;
  const ticked = last ? { done: last.done ?? false, by: last.done ? name : "", at: last.done ? last.at : null } : {};
  return { ...line, ...ticked, pull: { ...line.pull, open }, unsent: mine.length > 0 };
}

function Line({ line, onSay }: { line: Marked; onSay: (tick: Omit<Tick, "at">) => void }) {
  const { pull } = line;
  return (
    <li
      data-pull={pull.number}
      className="grid grid-cols-[3.5rem_1fr_auto] items-center gap-x-3 border-hair border-t py-2"
    >
      <button
        type="button"
        aria-pressed={line.done}
        aria-label={`${pull.number} ${pull.name}: ${line.done ? "pulled in" : "not pulled in yet"}`}
        className={`min-h-14 rounded-sm border text-xl ${line.done ? "border-meets bg-meets text-paper" : "border-hair bg-paper hover:bg-lit"}`}
        onClick={() => onSay({ circuit: pull.circuit, done: !line.done })}
      >
        <span className="figure">{pull.number}</span>
      </button>
      <div className="min-w-0">
        <p>
          <strong>{pull.name}</strong>: {glued(pull.cable)}
          {pull.count > 1 && `, ${pull.count} of them`}
          {pull.spare && <span className="text-faded">, spare</span>}
        </p>
        <p className="text-faded">
          {pull.start} to {pull.end}; tags “{pull.tags[0]}” and “{pull.tags[1]}”
          {pull.across !== null && `; ${quantity(pull.across, "mm")} over all${pull.doubtful ? " †" : ""}`}
        </p>
        <p className="flex flex-wrap gap-x-3">
          <label className="inline-flex min-h-8 items-center gap-2">
            <input
              type="checkbox"
              className="h-5 w-5"
              checked={pull.open}
              onChange={(event) => onSay({ circuit: pull.circuit, undecided: event.target.checked })}
            />
            far end not decided
          </label>
          {line.done && (
            <span>
              pulled in by {line.by || "somebody"}
              {line.at && `, ${dayOf(line.at)} ${clockOf(line.at)}`}
            </span>
          )}
          {line.unsent && <span className="text-close">not sent yet</span>}
        </p>
      </div>
      <p className="text-right">
        {pull.cut === null ? (
          <span className="text-short">{pull.why}</span>
        ) : (
          <>
            <span className="figure whitespace-nowrap text-xl">{quantity(pull.cut, "m")}</span>
            <span className="block text-faded text-sm">run {quantity(pull.run ?? 0, "m")}</span>
          </>
        )}
      </p>
    </li>
  );
}
