import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { addCopy, copies, removeCopy } from "../../api/client";
import type { Change, CircuitSummary, Column } from "../../api/types";
import { askAnew } from "../../parts/ask-anew";
import { usePaths } from "../../parts/paths";
import { CutShort, Progress, useSearch } from "../../parts/use-search";
import { useJob, useStore } from "../../sync/job-context";
import { Ask } from "../../ui/ask";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { useOnce } from "../../ui/once";
import { glued, percent, quantity } from "../../ui/quantity";
import { Mark, WORDS } from "../../ui/verdict";
import { NewCopy } from "./new-copy";
import { SmallestBreaks } from "./smallest-breaks";
import { WHAT_IF } from "./words";

type Number_ = "margin" | "ib" | "rating" | "iz" | "length" | "drop" | "zs";
/** The numbers that can be laid side by side. */
const NUMBERS: readonly { id: Number_; title: string; unit: string }[] = [
  { id: "margin", title: "margin", unit: "" },
  { id: "ib", title: "Ib", unit: "A" },
  { id: "rating", title: "In", unit: "A" },
  { id: "iz", title: "Iz", unit: "A" },
  { id: "length", title: "length", unit: "m" },
  { id: "drop", title: "volt drop", unit: "%" },
  { id: "zs", title: "Zs", unit: "Ω" },
];

/** Copies of the job with named changes beside the job as it is: circuits down, copies across, and what turns. */
export function WhatIfPage({ onCircuit }: { onCircuit: (id: string) => void }) {
  const store = useStore();
  const paths = usePaths();
  const client = useQueryClient();
  const { inputs, asOf, settled } = useJob();
  const [shown, setShown] = useState<Number_>("margin");
  const [turnedOnly, setTurnedOnly] = useState(false);
  const [away, setAway] = useState<Column | null>(null);
  const once = useOnce();
  const [trouble, setTrouble] = useState("");
  const found = useSearch(["copies", store.job, asOf], (watch) => copies(store.job, watch), {
    enabled: settled,
    keep: true,
  });
  const again = () => askAnew(client, ["copies", store.job]);
  const keep = async (column: Column) => {
    store.edit(column.changes as unknown as Change[]);
    await removeCopy(store.job, column.id).catch(() => undefined);
    await again();
  };
  const drop = async (column: Column) => {
    try {
      await removeCopy(store.job, column.id);
      await again();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : "no answer");
    }
  };
  const add = async (name: string, changes: Change[]) => {
    await addCopy(store.job, { id: crypto.randomUUID(), name, changes });
    await again();
  };
  const columns = found.data ?? [];
  const now = columns[0];
  const turned = new Set(columns.flatMap((c) => [...c.worse, ...c.better]));
  const circuits = (inputs?.circuits ?? []).filter((c) => !turnedOnly || turned.has(c.id));
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">{WHAT_IF.whatIf}</h1>
      <p className="mt-1 text-faded">
        {WHAT_IF.copiesJobEach}{" "}
        <Link className="word" to={paths.books()}>
          {WHAT_IF.underAnotherStandard}
        </Link>
      </p>
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      {trouble && (
        <p role="alert" className="mt-2 text-short">
          {trouble}
        </p>
      )}
      <NewCopy onAdd={add} />
      {(found.isPending || found.progress) && <Progress say={WHAT_IF.workingCopiesOut} progress={found.progress} />}
      <CutShort found={found.data} />
      {now && (
        <>
          <div className="mt-4 flex flex-wrap items-center gap-x-5 gap-y-1">
            <label className="flex items-center gap-2">
              <span className="whitespace-nowrap text-faded">{WHAT_IF.sideSide}</span>
              <select
                className={`${inputClass} w-auto`}
                value={shown}
                onChange={(event) => setShown(event.target.value as Number_)}
              >
                {NUMBERS.map((n) => (
                  <option key={n.id} value={n.id}>
                    {n.title}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex items-center gap-2">
              <input type="checkbox" checked={turnedOnly} onChange={(event) => setTurnedOnly(event.target.checked)} />
              only changed verdicts
            </label>
          </div>
          <div className="mt-2 overflow-x-auto">
            <table className="w-full border-collapse" data-what-if>
              <thead className="align-top">
                <tr className="border-hair border-b text-left">
                  <th className="sticky left-0 min-w-40 bg-paper font-normal text-faded max-sm:min-w-28">circuit</th>
                  {columns.map((c) => (
                    <th key={c.id} className="min-w-32 px-2 pb-1 font-semibold max-sm:min-w-44" data-copy={c.id}>
                      {c.title}
                      {c.by && <span className="block font-normal text-faded">by {c.by}</span>}
                      {!c.ready && (
                        <span className="block font-normal text-faded">
                          {c.said.map(glued).join("; ") || "no changes left"}
                        </span>
                      )}
                      {c.why && <span className="block font-normal text-short">no longer possible: {c.why}</span>}
                      {c.id !== "now" && (
                        <span className="block font-normal">
                          {c.worse.length > 0 && <span className="text-short">{c.worse.length} worse</span>}
                          {c.worse.length > 0 && c.better.length > 0 && ", "}
                          {c.better.length > 0 && <span className="text-meets">{c.better.length} better</span>}
                          {c.worse.length + c.better.length === 0 && !c.why && (
                            <span className="text-faded">{WHAT_IF.noneChanges}</span>
                          )}
                        </span>
                      )}
                      {!c.ready && (
                        <span className="no-print mt-1 flex flex-wrap gap-1 font-normal">
                          <Button disabled={c.why !== ""} onClick={() => void once(c.id, () => keep(c))}>
                            {WHAT_IF.applyJob}
                          </Button>
                          <Button onClick={() => setAway(c)}>discard</Button>
                        </span>
                      )}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody className="align-top">
                {circuits.map((circuit) => (
                  <tr key={circuit.id} className="border-hair border-b" data-circuit-row={circuit.id}>
                    <th scope="row" className="sticky left-0 bg-paper py-0.5 text-left font-normal">
                      <button type="button" className="word" onClick={() => onCircuit(circuit.id)}>
                        {circuit.name || "Unnamed circuit"}
                      </button>
                    </th>
                    {columns.map((c) => (
                      <Cell
                        key={c.id}
                        summary={c.circuits.find((s) => s.id === circuit.id)}
                        shown={shown}
                        turns={c.worse.includes(circuit.id) ? "worse" : c.better.includes(circuit.id) ? "better" : ""}
                      />
                    ))}
                  </tr>
                ))}
                {inputs?.boards.map((board) => (
                  <tr key={board.id} className="border-hair border-b text-faded">
                    <th scope="row" className="sticky left-0 bg-paper py-0.5 text-left font-normal">
                      demand of {board.name || "a board"}
                    </th>
                    {columns.map((c) => {
                      const demand = c.demand.find((d) => d.board === board.id);
                      return (
                        <td key={c.id} className="figure px-2">
                          {demand?.highest == null ? "not known" : quantity(demand.highest, "A")}
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
      <SmallestBreaks onCircuit={onCircuit} />
      <Ask
        open={away !== null}
        title={`Throw “${away?.title}” away?`}
        say={WHAT_IF.copyGoesJob}
        yes="discard it"
        onYes={() => {
          if (away) void drop(away);
          setAway(null);
        }}
        onClose={() => setAway(null)}
      />
    </div>
  );
}

interface CellProps {
  summary: CircuitSummary | undefined;
  shown: Number_;
  turns: "worse" | "better" | "";
}

function Cell({ summary, shown, turns }: CellProps) {
  if (!summary) return <td className="px-2 text-faded">{WHAT_IF.not}</td>;
  const value = summary[shown];
  const unit = NUMBERS.find((n) => n.id === shown)?.unit ?? "";
  const text = value === null ? WORDS[summary.verdict] : shown === "margin" ? percent(value) : quantity(value, unit);
  return (
    <td
      className={`figure px-2 ${turns === "worse" ? "border-short border-l-4 font-semibold text-short" : turns === "better" ? "border-meets border-l-4 font-semibold text-meets" : ""}`}
      title={`${summary.headline}: ${summary.reason}`}
    >
      <Mark verdict={summary.verdict} /> {text}
      {turns && <span className="block font-normal font-sans">{glued(summary.reason)}</span>}
    </td>
  );
}
