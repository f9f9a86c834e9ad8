import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { bookList, listPacks, type NewJobIn } from "../../api/client";
import defaults from "../../api/defaults.gen.json";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { readQuantity } from "../../ui/quantity";
import { NEW_JOB } from "./words";

type Kind = NonNullable<NewJobIn["kind"]>;

const STARTS: readonly { kind: Kind; title: string; note: string }[] = [
  { kind: "house", title: "a house", note: "one board" },
  { kind: "outbuilding", title: "a house with an outbuilding", note: "a second board and its sub-main" },
  { kind: "workshop", title: "a three-phase workshop", note: "three-phase, not a dwelling" },
  { kind: "flat", title: "an existing flat", note: "an existing installation" },
];
const EARTHING = ["TN-C-S", "TN-S", "TT"] as const;

/** A new job from a handful of answers; every one of them may be left for the survey. */
export function NewJob({ onStart, pending }: { onStart: (body: NewJobIn) => void; pending: boolean }) {
  const [name, setName] = useState("");
  const [kind, setKind] = useState<Kind>("house");
  const [client, setClient] = useState("");
  const [place, setPlace] = useState("");
  const [earthing, setEarthing] = useState<(typeof EARTHING)[number] | "">("");
  const [ways, setWays] = useState("");
  const [outbuilding, setOutbuilding] = useState("");
  const [distance, setDistance] = useState("");
  const [ruleset, setRuleset] = useState(defaults.book);
  const books = useQuery({ queryKey: ["books"], queryFn: bookList, enabled: name.trim() !== "" }).data ?? [];
  const packs = useQuery({ queryKey: ["packs"], queryFn: listPacks, enabled: name.trim() !== "" }).data ?? [];
  const book = books.find((b) => b.id === ruleset.split("+")[0]);
  const choices = books.flatMap((b) => [
    { id: b.id, title: b.title },
    ...packs
      .filter((p) => p.over === b.id && !p.away)
      .map((p) => ({ id: p.book, title: `${b.title} with ${p.title} ${p.version}` })),
  ]);
  const [why, setWhy] = useState<{ field: string; text: string } | null>(null);
  const number = (field: string, text: string, lo: number, hi: number, unit: string, whole = false) => {
    if (text.trim() === "") return null;
    const read = readQuantity(text, { lo, hi, unit, whole });
    if (read.ok) return read.value;
    setWhy({ field, text: read.why });
    return undefined;
  };
  const start = () => {
    setWhy(null);
    const many = number("ways", ways, 1, 96, "", true);
    const far = kind === "outbuilding" ? number("distance", distance, 0.1, 1000, "m") : null;
    if (many === undefined || far === undefined || name.trim() === "") return;
    onStart({
      name: name.trim(),
      kind,
      client: client.trim(),
      place: place.trim(),
      earthing: earthing || null,
      ways: many,
      outbuilding: kind === "outbuilding" ? outbuilding.trim() : "",
      distance: far,
      ruleset,
    });
  };
  const asked = name.trim() !== "";
  return (
    <form
      className="mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        start();
      }}
    >
      <div className="flex gap-2">
        <input
          className={inputClass}
          aria-label={NEW_JOB.nameNewJob}
          placeholder={NEW_JOB.nameNewJob2}
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" strong disabled={!asked || pending} className="whitespace-nowrap">
          {NEW_JOB.startJob}
        </Button>
      </div>
      {asked && (
        <div className="mt-3 border-hair border-l-2 pl-4" data-start>
          <p className="text-faded">{NEW_JOB.fewQuestionsAny}</p>
          <fieldset className="mt-2 flex flex-wrap gap-x-5 gap-y-1">
            <legend className="sr-only">{NEW_JOB.what}</legend>
            {STARTS.map((s) => (
              <label key={s.kind} className="inline-flex items-center gap-2">
                <input type="radio" name="kind" checked={kind === s.kind} onChange={() => setKind(s.kind)} />
                {s.title} <span className="text-faded">{s.note}</span>
              </label>
            ))}
          </fieldset>
          <div className="mt-3 grid grid-cols-2 gap-x-5 gap-y-2 max-sm:grid-cols-1">
            <Asked label={NEW_JOB.whoOwnWords} value={client} onChange={setClient} />
            <Asked label={NEW_JOB.addressNameHouse} value={place} onChange={setPlace} />
            <label className="block">
              <span className="text-faded">{NEW_JOB.earthingSupply}</span>
              <select
                className={`${inputClass} mt-1`}
                value={earthing}
                onChange={(event) => setEarthing(event.target.value as typeof earthing)}
              >
                <option value="">{NEW_JOB.notCheckedYet}</option>
                {EARTHING.map((e) => (
                  <option key={e} value={e}>
                    {e}
                  </option>
                ))}
              </select>
            </label>
            <Asked
              label={`Ways of the ${kind === "flat" ? "existing board" : "board"}`}
              value={ways}
              onChange={setWays}
              why={why?.field === "ways" ? why.text : ""}
            />
            <label className="block">
              <span className="text-faded">{NEW_JOB.designed}</span>
              <select
                className={`${inputClass} mt-1`}
                value={ruleset}
                onChange={(event) => setRuleset(event.target.value)}
              >
                {choices.map((b) => (
                  <option key={b.id} value={b.id}>
                    {b.title}
                  </option>
                ))}
              </select>
              {book && (
                <span className={`block ${book.to_check === book.numbers ? "text-close" : "text-faded"}`}>
                  {book.edition}
                  {book.to_check === book.numbers && "; every number in it still to be checked †"}
                </span>
              )}
            </label>
            {kind === "outbuilding" && (
              <>
                <Asked label={NEW_JOB.whatOutbuildingCalled} value={outbuilding} onChange={setOutbuilding} />
                <Asked
                  label={NEW_JOB.lengthSubMain}
                  value={distance}
                  onChange={setDistance}
                  why={why?.field === "distance" ? why.text : ""}
                />
              </>
            )}
          </div>
        </div>
      )}
    </form>
  );
}

interface AskedProps {
  label: string;
  value: string;
  onChange: (text: string) => void;
  why?: string;
}

function Asked({ label, value, onChange, why = "" }: AskedProps) {
  return (
    <label className="block">
      <span className="text-faded">{label}</span>
      <input
        className={`${inputClass} mt-1`}
        maxLength={150}
        autoComplete="off"
        aria-invalid={why !== ""}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      {why && (
        <span role="alert" className="block text-short">
          {why}
        </span>
      )}
    </label>
  );
}
