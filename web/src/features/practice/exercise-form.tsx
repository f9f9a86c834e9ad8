import { useId } from "react";
import type { Exercise, Marked } from "../../api/practice";
import { inputClass } from "../../ui/editors";
import { glued, quantity } from "../../ui/quantity";
import type { Typed } from "./answers";
import { EXERCISE_FORM } from "./words";

type Stands = Marked["marks"][number]["stands"];
const SAID: Record<Stands, string> = { right: "right", follows: "follows", wrong: "wrong", left: "left blank" };
const TONES: Record<Stands, string> = {
  right: "text-meets",
  follows: "text-close",
  wrong: "font-semibold text-short",
  left: "text-faded",
};

interface Props {
  exercise: Exercise;
  typed: Typed;
  onTyped: (line: string, text: string) => void;
  /** Why a line is no number. */
  wrong: Record<string, string>;
  marked: Marked | null;
  /** Opens a table beside the lines; absent where the tables are shut. */
  onTable?: ((number: string) => void) | undefined;
  /** Handed in for good: nothing can be typed any more, and what is right stands beside it. */
  locked?: boolean;
}

/** The circuit that is told, what is given, and the lines to fill in; once it is marked, how each stands. */
export function ExerciseForm({ exercise, typed, onTyped, wrong, marked, onTable, locked = false }: Props) {
  const form = useId();
  const next = (from: HTMLElement) => {
    const all = [...(from.closest("[data-lines]")?.querySelectorAll<HTMLInputElement>("input[type=text]") ?? [])];
    all[all.indexOf(from as HTMLInputElement) + 1]?.focus();
  };
  return (
    <>
      {exercise.story.map((text) => (
        <p key={text} className="max-w-3xl text-[1.1rem]">
          {glued(text)}
        </p>
      ))}
      {exercise.given.length > 0 && (
        <dl className="mt-3 grid max-w-3xl grid-cols-[3.5rem_1fr_auto] gap-x-3" aria-label={EXERCISE_FORM.given}>
          {exercise.given.map((g) => (
            <div key={g.id} className="col-span-3 grid grid-cols-subgrid border-hair border-b py-0.5">
              <dt className="figure font-semibold">{g.id}</dt>
              <dd className="text-faded">{g.text}</dd>
              <dd className="figure text-right">{g.value !== null && `${exactly(g.value)} ${g.unit}`.trim()}</dd>
            </div>
          ))}
        </dl>
      )}
      <ol className="mt-4 max-w-3xl" data-lines>
        {exercise.lines.map((line) => {
          const mark = marked?.marks.find((m) => m.id === line.id);
          const first = marked?.first === line.id;
          const id = `${form}-${line.id}`;
          return (
            <li
              key={line.id}
              className={`border-hair border-b py-2 ${first ? "border-l-4 border-l-short pl-3" : ""}`}
              data-line={line.id}
              data-stands={mark?.stands}
            >
              <div className="grid grid-cols-[1fr_auto] items-center gap-x-3 gap-y-1 sm:grid-cols-[1fr_auto_6.5rem]">
                {line.decides ? (
                  <fieldset className="col-span-2 flex flex-wrap items-center gap-x-4">
                    <legend className="float-left mr-3">{line.ask}</legend>
                    {(["yes", "no"] as const).map((word) => (
                      <label key={word} className="inline-flex min-h-9 items-center gap-2">
                        <input
                          type="radio"
                          name={id}
                          disabled={locked}
                          checked={typed[line.id] === (word === "yes" ? "1" : "0")}
                          onChange={() => onTyped(line.id, word === "yes" ? "1" : "0")}
                        />
                        {word}
                      </label>
                    ))}
                  </fieldset>
                ) : (
                  <>
                    <label htmlFor={id} className="max-sm:col-span-2">
                      {line.symbol !== line.ask && <span className="figure mr-2 font-semibold">{line.symbol}</span>}
                      {line.ask}
                    </label>
                    <span className="inline-flex items-center gap-2">
                      <input
                        id={id}
                        type="text"
                        inputMode="decimal"
                        autoComplete="off"
                        className={`${inputClass} max-w-28 text-right`}
                        disabled={locked}
                        aria-invalid={wrong[line.id] !== undefined || mark?.stands === "wrong"}
                        value={typed[line.id] ?? ""}
                        onChange={(event) => onTyped(line.id, event.target.value)}
                        onKeyDown={(event) => {
                          if (event.key === "Enter") {
                            event.preventDefault();
                            next(event.currentTarget);
                          }
                        }}
                      />
                      <span className="w-16 text-faded">{line.unit}</span>
                    </span>
                  </>
                )}
                {onTable && line.table && (
                  <button type="button" className="word min-h-6 justify-self-start" onClick={() => onTable(line.table)}>
                    Table {line.table}
                  </button>
                )}
              </div>
              {wrong[line.id] && (
                <p role="alert" className="text-short">
                  {wrong[line.id]}
                </p>
              )}
              {mark && (
                <p className="mt-1">
                  <span className={TONES[mark.stands]}>{SAID[mark.stands]}</span>
                  {mark.told && mark.stands !== "left" && `: ${glued(mark.told)}`}
                  {locked && mark.stands !== "right" && (
                    <span className="text-faded">
                      {" "}
                      · {line.decides ? (mark.right === 1 ? "yes" : "no") : glued(quantity(mark.right, line.unit))} is
                      correct
                    </span>
                  )}
                </p>
              )}
            </li>
          );
        })}
      </ol>
    </>
  );
}

const exactly = (value: number) => String(Number(value.toPrecision(6)));
