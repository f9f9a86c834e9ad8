import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { siteEntries } from "../../api/site";
import type { OnSite } from "../../parts/use-site-log";
import { useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { clockOf, dayOf } from "../../ui/time";
import { MINOR_WORK } from "./words";

const FIELDS = [
  { name: "done", title: "What was done", hint: "in plain words, and where" },
  { name: "completed", title: "Completed on", hint: "the date, as it should be printed" },
  { name: "departures", title: "Departures from BS 7671, with the reason", hint: "write none if there are none" },
  { name: "existing", title: "Comments on the existing installation", hint: "write none if there are none" },
] as const;
type Said = Record<(typeof FIELDS)[number]["name"], string>;
const NOTHING: Said = { done: "", completed: "", departures: "", existing: "" };

/** What only the person who did the work can say of it; the rest of the record comes from the design and the readings. */
export function MinorWork({ circuit, site }: { circuit: string; site: OnSite }) {
  const store = useStore();
  const found = useQuery({ queryKey: ["site", store.job, "log"], queryFn: () => siteEntries(store.job) });
  const [typed, setTyped] = useState<Partial<Said>>({});
  const mine = [
    ...(found.data?.entries ?? []),
    ...site.waiting.map((e) => ({ ...e, subject: e.subject ?? "", by: site.name })),
  ].filter((e) => e.kind === "minor_work" && e.subject === circuit);
  const last = mine.at(-1);
  const said: Said = { ...NOTHING, ...(last?.data as Partial<Said>), ...typed };
  const lacking = FIELDS.filter((f) => said[f.name].trim() === "");
  const changed = Object.keys(typed).length > 0;
  return (
    <form
      aria-label={MINOR_WORK.work}
      className="mt-4 max-w-2xl"
      onSubmit={(event) => {
        event.preventDefault();
        site.write({ kind: "minor_work", subject: circuit, data: said });
        setTyped({});
      }}
    >
      {FIELDS.map(({ name, title, hint }) => (
        <label key={name} className="mt-2 block">
          <span className="block">
            {title} <span className="text-faded">({hint})</span>
          </span>
          <textarea
            className={`${inputClass} mt-1`}
            rows={name === "completed" ? 1 : 2}
            maxLength={name === "completed" ? 200 : 1000}
            value={said[name]}
            onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
          />
        </label>
      ))}
      <p className="mt-2">
        <Button type="submit" disabled={lacking.length > 0 || !changed}>
          save
        </Button>{" "}
        {lacking.length > 0 && changed ? (
          <span className="text-faded">
            still to enter: {lacking.map((f) => f.title.toLowerCase().split(",")[0]).join("; ")}
          </span>
        ) : last && !changed ? (
          <span className="text-faded">
            entered by {last.by}, {dayOf(last.at)} {clockOf(last.at)}
          </span>
        ) : null}
      </p>
    </form>
  );
}
