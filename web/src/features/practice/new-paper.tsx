import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Head, setPaper } from "../../api/practice";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { readQuantity } from "../../ui/quantity";
import { NEW_PAPER } from "./words";

interface Props {
  heads: readonly Head[];
  book: string;
  onSet: () => void;
}

/** A paper to be set: its heads, how many of each, the time, tables open or shut. */
export function NewPaper({ heads, book, onSet }: Props) {
  const [open, setOpen] = useState(false);
  const [title, setTitle] = useState("");
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [each, setEach] = useState("1");
  const [minutes, setMinutes] = useState("");
  const [tables, setTables] = useState(false);
  const [why, setWhy] = useState<{ field: string; text: string } | null>(null);
  const set = useMutation({
    mutationFn: setPaper,
    onSuccess: () => {
      setOpen(false);
      setTitle("");
      setChosen([]);
      onSet();
    },
  });
  const whole = (field: string, text: string, lo: number, hi: number) => {
    const read = readQuantity(text, { lo, hi, unit: "", whole: true });
    if (read.ok) return read.value;
    setWhy({ field, text: read.why });
    return null;
  };
  const go = () => {
    setWhy(null);
    if (title.trim() === "") return setWhy({ field: "title", text: "A title is needed." });
    if (chosen.length === 0) return setWhy({ field: "heads", text: "Choose at least one topic." });
    const many = whole("each", each, 1, 10);
    const time = minutes.trim() === "" ? 0 : whole("minutes", minutes, 1, 300);
    if (many !== null && time !== null)
      set.mutate({ title: title.trim(), book, heads: [...chosen], each: many, minutes: time, tables });
  };
  if (!open)
    return (
      <p className="mt-2">
        <Button onClick={() => setOpen(true)}>{NEW_PAPER.setPaper}</Button>
      </p>
    );
  const said = (field: string) =>
    why?.field === field && (
      <span role="alert" className="block text-short">
        {why.text}
      </span>
    );
  return (
    <form
      className="mt-2 border-hair border-l-2 pl-4"
      aria-label={NEW_PAPER.paperSet}
      onSubmit={(event) => {
        event.preventDefault();
        go();
      }}
    >
      <label className="block max-w-md">
        <span className="text-faded">title</span>
        <input
          className={`${inputClass} mt-1`}
          maxLength={120}
          value={title}
          aria-invalid={why?.field === "title"}
          onChange={(event) => setTitle(event.target.value)}
        />
        {said("title")}
      </label>
      <fieldset className="mt-3 grid grid-cols-2 gap-x-5 max-sm:grid-cols-1">
        <legend className="text-faded">topics</legend>
        {heads.map((h) => (
          <label key={h.id} className="flex min-h-7 items-center gap-2">
            <input
              type="checkbox"
              checked={chosen.includes(h.id)}
              onChange={(event) =>
                setChosen(event.target.checked ? [...chosen, h.id] : chosen.filter((id) => id !== h.id))
              }
            />
            {h.title}
          </label>
        ))}
      </fieldset>
      {said("heads")}
      <div className="mt-3 flex flex-wrap items-end gap-5">
        <label>
          <span className="text-faded">{NEW_PAPER.questionsEach}</span>
          <input
            className={`${inputClass} mt-1 w-20`}
            inputMode="numeric"
            value={each}
            onChange={(e) => setEach(e.target.value)}
          />
          {said("each")}
        </label>
        <label>
          <span className="text-faded">{NEW_PAPER.minutesBlankNo}</span>
          <input
            className={`${inputClass} mt-1 w-24`}
            inputMode="numeric"
            value={minutes}
            onChange={(e) => setMinutes(e.target.value)}
          />
          {said("minutes")}
        </label>
        <label className="flex min-h-9 items-center gap-2">
          <input type="checkbox" checked={tables} onChange={(event) => setTables(event.target.checked)} />
          open book
        </label>
      </div>
      {set.error && (
        <p role="alert" className="mt-2 text-short">
          {set.error.message}
        </p>
      )}
      <p className="mt-3 flex gap-2">
        <Button type="submit" strong disabled={set.isPending}>
          {NEW_PAPER.set}
        </Button>
        <Button onClick={() => setOpen(false)}>cancel</Button>
      </p>
    </form>
  );
}
