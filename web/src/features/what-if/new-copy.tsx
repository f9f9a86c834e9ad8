import { useState } from "react";
import { saidRows } from "../../api/client";
import type { Change } from "../../api/types";
import { NOBODY, setFields, useJob, useRules, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { useOnce } from "../../ui/once";
import { type Limits, quantity, readQuantity } from "../../ui/quantity";
import { NEW_COPY } from "./words";

/** What a copy can change: something of a circuit, read with the words of the grid; surroundings of a route; what the supply is. */
const OF_CIRCUIT = [
  { id: "load", title: "appliance", hint: "8.5 kW shower" },
  { id: "device", title: "device", hint: "b32 rcbo 30mA" },
  { id: "cable", title: "cable", hint: "6 flat" },
  { id: "length", title: "length", hint: "12.5" },
  { id: "place", title: "installation method", hint: "under thick quilt" },
] as const;
const OF_ROUTE = [
  { id: "wrapped", title: "surrounded by insulation, for", unit: "m" },
  { id: "ambient", title: "temperature", unit: "°C" },
  { id: "length", title: "length", unit: "m" },
] as const;
const OF_SUPPLY = [
  { id: "ze", title: "Ze", unit: "Ω" },
  { id: "ipf", title: "Ipf", unit: "A" },
  { id: "fuse_in", title: "service fuse", unit: "A" },
] as const;

interface Step {
  said: string;
  changes: Change[];
}

/** A copy being made: one change after the other, each in words, then its name. */
export function NewCopy({ onAdd }: { onAdd: (name: string, changes: Change[]) => Promise<void> }) {
  const store = useStore();
  const rules = useRules();
  const { inputs } = useJob();
  const [open, setOpen] = useState(false);
  const [steps, setSteps] = useState<Step[]>([]);
  const [name, setName] = useState("");
  const [target, setTarget] = useState("");
  const [field, setField] = useState("");
  const [text, setText] = useState("");
  const [why, setWhy] = useState("");
  /** Changes that are still being read: a copy without them is not the one that was meant. */
  const [reading, setReading] = useState(0);
  const once = useOnce();
  if (!inputs) return null;
  const [kind, id = ""] = target.split(":");
  const fields = kind === "circuit" ? OF_CIRCUIT : kind === "route" ? OF_ROUTE : kind === "supply" ? OF_SUPPLY : [];
  const chosen = fields.find((f) => f.id === field) ?? fields[0];
  const called =
    kind === "circuit"
      ? inputs.circuits.find((c) => c.id === id)?.name || "a circuit"
      : kind === "route"
        ? inputs.routes.find((r) => r.id === id)?.name || "a route"
        : "supply";
  const read = async (): Promise<Step | null> => {
    if (!chosen) {
      setWhy(NEW_COPY.firstChooseWhat);
      return null;
    }
    if (kind === "circuit") {
      const board = inputs.circuits.find((c) => c.id === id)?.board ?? "";
      const found = await saidRows(store.job, {
        board,
        rows: [[text]],
        columns: [chosen.id as (typeof OF_CIRCUIT)[number]["id"]],
        pasted: false,
        circuits: [id],
      });
      const cell = found.rows[0]?.cells[0];
      if (!cell || cell.why) {
        setWhy(cell?.why || "not understood");
        return null;
      }
      return { said: `${called}: ${text}`, changes: (found.rows[0]?.changes ?? []) as unknown as Change[] };
    }
    const about = rules.fields.find((f) => f.field === `${kind}.${chosen.id}`);
    const limits: Limits = { lo: about?.lo ?? null, hi: about?.hi ?? null, unit: about?.unit ?? "" };
    const value = readQuantity(text, limits);
    if (!value.ok) {
      setWhy(value.why);
      return null;
    }
    const change =
      kind === "supply"
        ? setFields("supply", NOBODY, { [chosen.id]: value.value })
        : setFields("route", id, { [chosen.id]: value.value });
    return { said: `${called}: ${chosen.title} ${quantity(value.value, limits.unit)}`, changes: [change] };
  };
  const add = async () => {
    setWhy("");
    setReading((n) => n + 1);
    try {
      const step = await read();
      if (!step) return;
      // The answer takes its time: what was added or typed meanwhile stays.
      setSteps((now) => [...now, step]);
      setText((now) => (now === text ? "" : now));
    } catch (error) {
      setWhy(error instanceof Error ? error.message : "no answer");
    } finally {
      setReading((n) => n - 1);
    }
  };
  const make = async () => {
    try {
      await onAdd(
        name.trim() ||
          steps
            .map((s) => s.said)
            .join("; ")
            .slice(0, 120),
        steps.flatMap((s) => s.changes),
      );
      setSteps([]);
      setName("");
      setOpen(false);
    } catch (error) {
      setWhy(error instanceof Error ? error.message : "no answer");
    }
  };
  if (!open)
    return (
      <p className="mt-3">
        <Button strong onClick={() => setOpen(true)}>
          {NEW_COPY.newCopy}
        </Button>
      </p>
    );
  return (
    <section className="mt-3 max-w-3xl border-hair border-y py-3" aria-label={NEW_COPY.newCopy2}>
      {steps.length > 0 && (
        <ol className="mb-2 list-decimal pl-5">
          {steps.map((step, i) => (
            <li key={step.said}>
              {step.said}{" "}
              <button type="button" className="word" onClick={() => setSteps(steps.filter((_, j) => j !== i))}>
                remove
              </button>
            </li>
          ))}
        </ol>
      )}
      <form
        className="grid grid-cols-[1fr_10rem_1fr_auto] items-end gap-2 max-sm:grid-cols-1"
        onSubmit={(event) => {
          event.preventDefault();
          void once(`${target} ${field} ${text}`, add);
        }}
      >
        <label>
          <span className="block text-faded">{NEW_COPY.whatChanges}</span>
          <select
            className={`${inputClass} mt-1`}
            value={target}
            onChange={(event) => {
              setTarget(event.target.value);
              setField("");
              setWhy("");
            }}
          >
            <option value="">choose</option>
            <optgroup label={NEW_COPY.circuits}>
              {inputs.circuits.map((c) => (
                <option key={c.id} value={`circuit:${c.id}`}>
                  {c.name || "Unnamed circuit"}
                </option>
              ))}
            </optgroup>
            {inputs.routes.length > 0 && (
              <optgroup label={NEW_COPY.routes}>
                {inputs.routes.map((r) => (
                  <option key={r.id} value={`route:${r.id}`}>
                    {r.name || "Unnamed route"}
                  </option>
                ))}
              </optgroup>
            )}
            <option value="supply:">{NEW_COPY.supply}</option>
          </select>
        </label>
        <label>
          <span className="block text-faded">value</span>
          <select
            className={`${inputClass} mt-1`}
            value={chosen?.id ?? ""}
            onChange={(event) => setField(event.target.value)}
            disabled={fields.length === 0}
          >
            {fields.map((f) => (
              <option key={f.id} value={f.id}>
                {f.title}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="block text-faded">{NEW_COPY.newValue}</span>
          <input
            className={`${inputClass} mt-1`}
            aria-invalid={why !== ""}
            value={text}
            autoComplete="off"
            placeholder={chosen && "hint" in chosen ? chosen.hint : chosen && "unit" in chosen ? chosen.unit : ""}
            onChange={(event) => {
              setText(event.target.value);
              setWhy("");
            }}
          />
        </label>
        <Button type="submit" disabled={text.trim() === "" || !chosen}>
          {NEW_COPY.addChange}
        </Button>
      </form>
      {why && (
        <p role="alert" className="mt-1 text-short">
          {why}
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-end gap-2">
        <label className="grow">
          <span className="block text-faded">name</span>
          <input
            className={`${inputClass} mt-1`}
            maxLength={200}
            value={name}
            placeholder={steps.map((s) => s.said).join("; ") || "smaller shower"}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <Button strong disabled={steps.length === 0 || reading > 0} onClick={() => void once("make", make)}>
          {NEW_COPY.workOut}
        </Button>
        <Button onClick={() => setOpen(false)}>cancel</Button>
      </div>
    </section>
  );
}
