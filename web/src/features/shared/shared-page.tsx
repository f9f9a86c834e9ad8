import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useParams } from "react-router";
import { sharedJob } from "../../api/client";
import { glued, quantity } from "../../ui/quantity";
import { dayOf } from "../../ui/time";
import { Mark, WORDS } from "../../ui/verdict";
import { SHARED } from "./words";

/** A job as a client reads it by a link: how each circuit stands, and nothing to change. */
export function SharedPage({ caution }: { caution: ReactNode }) {
  const { token = "" } = useParams();
  const found = useQuery({ queryKey: ["shared", token], queryFn: () => sharedJob(token), retry: false });
  if (found.isPending) return <p className="p-8 text-faded">{SHARED.oneMoment}</p>;
  if (found.error)
    return (
      <main className="mx-auto max-w-3xl px-6 py-16">
        <h1 className="font-semibold text-2xl">{SHARED.linkNoLonger}</h1>
        <p className="mt-2">{SHARED.hasExpiredFirm}</p>
      </main>
    );
  const job = found.data;
  return (
    <main className="mx-auto max-w-5xl px-6 py-8 max-sm:px-3">
      <p className="text-faded">
        {job.firm}, for reading only until {dayOf(job.ends)}
      </p>
      <h1 className="font-semibold text-2xl">{job.name}</h1>
      <p className="text-faded">{[job.client && `for ${job.client}`, job.place].filter(Boolean).join(", ")}</p>
      <p className="mt-2">
        The design as it was on {dayOf(job.made)}, version {job.version}; {job.edition}.{" "}
        {job.revision === null
          ? SHARED.draftNotIssued
          : job.signed
            ? `It was issued as revision ${job.revision} and signed by ${job.signed}.`
            : `It was issued as revision ${job.revision}; it is not signed.`}
      </p>
      {job.trouble && <p className="mt-2 text-short">{job.trouble}</p>}
      {job.boards.map((board, at) => (
        <section key={`${board.name} ${at.toString()}`} className="mt-6" aria-label={board.name || "A board"}>
          <h2 className="font-semibold text-xl">{board.name || "A board"}</h2>
          {board.circuits.length === 0 ? (
            <p className="text-faded">{SHARED.noCircuit}</p>
          ) : (
            <div className="overflow-x-auto">
              <table className="mt-1 w-full min-w-[40rem]">
                <thead>
                  <tr className="border-hair border-b text-left text-faded">
                    <th className="font-normal" scope="col">
                      circuit
                    </th>
                    {["Ib", "In", "Iz", "volt drop", "Zs"].map((title) => (
                      <th key={title} className="whitespace-nowrap pl-3 text-right font-normal" scope="col">
                        {title}
                      </th>
                    ))}
                    <th className="pl-4 font-normal" scope="col">
                      verdict
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {board.circuits.map((c, i) => (
                    <tr key={c.id} className="border-hair border-b align-baseline" data-verdict={c.verdict}>
                      <th scope="row" className="py-1 text-left font-semibold">
                        {board.names[i] || "Unnamed circuit"}
                        {c.doubtful && <span title={SHARED.basedTableValue}> †</span>}
                        {c.assumed.length > 0 && <span className="hatch ml-1 px-1 font-normal text-sm">assumed</span>}
                      </th>
                      <td className="figure whitespace-nowrap pl-3 text-right">
                        {c.ib === null ? "?" : quantity(c.ib, "A")}
                      </td>
                      <td className="figure whitespace-nowrap pl-3 text-right">
                        {c.rating === null ? "?" : quantity(c.rating, "A")}
                      </td>
                      <td className="figure whitespace-nowrap pl-3 text-right">
                        {c.iz === null ? "?" : quantity(c.iz, "A")}
                      </td>
                      <td className="figure whitespace-nowrap pl-3 text-right">
                        {c.drop === null ? "?" : quantity(c.drop, "%")}
                      </td>
                      <td className="figure whitespace-nowrap pl-3 text-right">
                        {c.zs === null ? "?" : quantity(c.zs, "Ω")}
                      </td>
                      <td className="pl-4">
                        <Mark verdict={c.verdict} /> {WORDS[c.verdict]}
                        <span className="block text-faded text-sm">{glued(c.reason)}</span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
        </section>
      ))}
      <p className="mt-4 text-faded">{SHARED.basedTableValueStill}</p>
      {caution}
    </main>
  );
}
