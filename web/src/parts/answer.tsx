import { useId, useState } from "react";
import type { Ask, Change } from "../api/types";
import { Button } from "../ui/controls";
import { inputClass } from "../ui/editors";
import { figure, quantity, readQuantity } from "../ui/quantity";

/** The changes of a way out with the figure that a person gave in the place of the one it was worked out with. */
export function withAnswer(changes: readonly Change[], ask: Ask, value: number): Change[] {
  const [field = "", inner] = ask.field.split(".");
  return changes.map((change) => {
    if (change.kind !== ask.kind || (change.id ?? "") !== ask.id) return change;
    const before = (change.fields ?? {}) as Record<string, unknown>;
    const now = inner ? { ...(before[field] as object), [inner]: value } : value;
    return { ...change, fields: { ...before, [field]: now } };
  });
}

/** Whether a figure would do what the way out says. */
export const does = (ask: Ask, value: number) =>
  (ask.most === null || value <= ask.most) && (ask.least === null || value >= ask.least);

/** How far the slider goes: to twice what would do, or from half of it. */
function span(ask: Ask): [number, number] | null {
  if (ask.most !== null) return [0, ask.most * 2];
  if (ask.least !== null) return [ask.least / 2, ask.least * 2];
  return null;
}

/** Asks for the figure that a way out hangs on: typed or by a slider, with what would do beside it. */
export function Answer({
  ask,
  optional,
  onTake,
}: {
  ask: Ask;
  optional: boolean;
  onTake: (value: number | null) => void;
}) {
  const [text, setText] = useState("");
  const id = useId();
  const edges = span(ask);
  const read = readQuantity(text, { lo: null, hi: null, unit: ask.unit });
  const value = read.ok && read.value > 0 ? read.value : null;
  const told =
    value === null
      ? text && (read.ok ? "More than nothing is needed." : read.why)
      : edges === null
        ? ""
        : does(ask, value)
          ? "would do"
          : ask.most !== null
            ? `too much: up to ${quantity(ask.most, ask.unit)} would do`
            : `too little: from ${quantity(ask.least ?? 0, ask.unit)} on would do`;
  return (
    <form
      className="mt-1 flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (value !== null || (optional && !text)) onTake(value);
      }}
    >
      <label htmlFor={id}>
        {ask.label} [{ask.unit}]
      </label>
      <input
        id={id}
        inputMode="decimal"
        className={`${inputClass} w-28!`}
        value={text}
        onChange={(event) => setText(event.target.value)}
        aria-invalid={text !== "" && value === null}
        aria-describedby={`${id}-told`}
      />
      {edges && (
        <input
          type="range"
          className="min-h-9 w-40 accent-copper"
          aria-label={`${ask.label}, by hand`}
          min={edges[0]}
          max={edges[1]}
          step={(edges[1] - edges[0]) / 200}
          value={value ?? edges[0]}
          onChange={(event) => setText(figure(Number(event.target.value), ask.unit).replaceAll(/\s/g, ""))}
        />
      )}
      <Button type="submit" disabled={value === null && !(optional && !text)}>
        {optional ? "use it" : "enter it"}
      </Button>
      <span
        id={`${id}-told`}
        role="status"
        className={value !== null && edges && !does(ask, value) ? "text-short" : "text-faded"}
      >
        {told}
      </span>
    </form>
  );
}
