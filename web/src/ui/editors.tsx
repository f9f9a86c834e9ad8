import { type KeyboardEvent, type ReactNode, type Ref, useEffect, useId, useMemo, useRef, useState } from "react";
import { useDraft } from "./draft";
import { exact, type Limits, readQuantity } from "./quantity";
import type { EditorProps } from "./word";

export const inputClass =
  "w-full rounded-sm border border-hair bg-paper px-2 py-1.5 text-ink aria-invalid:border-short aria-invalid:border-2";

/** Put the caret into a field when it appears: after what was typed, or with the old text selected. */
function useCaret(typed: string) {
  const ref = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const input = ref.current;
    input?.focus();
    if (typed) input?.setSelectionRange(typed.length, typed.length);
    else input?.select();
  }, [typed]);
  return ref;
}

interface NumberProps extends EditorProps {
  label: string;
  value: number | null;
  limits: Limits;
  optional?: boolean;
  onSave: (value: number | null) => void;
  after?: ReactNode;
}

/** Tell the word what is to be done with what was typed when somebody leaves it: always what the last drawing says. */
function useLeaving(onLeave: EditorProps["onLeave"], save: () => boolean) {
  const last = useRef(save);
  last.current = save;
  useEffect(() => onLeave?.(() => last.current()), [onLeave]);
}

/**
 * A number with its unit. Enter saves and goes on, leaving it saves, Escape leaves it as it was; a refusal stands under the field and keeps the
 * text.
 */
export function NumberEditor({ typed, next, onLeave, label, value, limits, optional, onSave, after }: NumberProps) {
  const before = value === null ? "" : exact(value);
  const [text, setText] = useState(typed || before);
  const [why, setWhy] = useState("");
  const ref = useCaret(typed);
  const id = useId();

  const save = () => {
    if (text.trim() === "" && optional) {
      if (value !== null) onSave(null);
      return true;
    }
    const read = readQuantity(text, limits);
    if (!read.ok) {
      setWhy(read.why);
      return false;
    }
    if (read.value !== value) onSave(read.value);
    return true;
  };
  useLeaving(onLeave, () => text === before || save());

  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (save()) next();
      }}
    >
      <FigureInput
        {...{ id, label, text, why }}
        several
        unit={limits.unit}
        ref={ref}
        onText={(now) => {
          setText(now);
          setWhy("");
        }}
      />
      <Told text={text} limits={limits} />
      {after}
    </form>
  );
}

/** What a bare number is taken for, where that is not the unit of the field. */
function Told({ text, limits }: { text: string; limits: Limits }) {
  const read = text.trim() === "" ? null : readQuantity(text, limits);
  if (!read?.ok || !read.told) return null;
  return (
    <p role="status" className="mt-1">
      {read.told}
    </p>
  );
}

export function Why({ id, text }: { id: string; text: string }) {
  if (!text) return null;
  return (
    <p id={`${id}-why`} role="alert" className="mt-1 text-short">
      {text}
    </p>
  );
}

export interface Option<T> {
  value: T;
  text: string;
  note?: string;
  /** Other names it is found by. */
  also?: string;
}

interface ComboProps<T> extends EditorProps {
  label: string;
  start?: string;
  placeholder?: string;
  /** The options that fit what is typed, best first. */
  options: (text: string) => Option<T>[];
  onSave: (value: T) => void;
  after?: ReactNode;
  /** Told what is typed, for what is asked of the server while typing. */
  onText?: (text: string) => void;
  /** What is said where nothing fits. */
  nothing?: string;
}

/** Typeahead: type to narrow, arrows to choose, Enter to take and go on. */
export function ComboEditor<T>(props: ComboProps<T>) {
  const { typed, next, onLeave, label, start, placeholder, options, onSave, after, onText } = props;
  const [text, setText] = useState(typed || (start ?? ""));
  const [at, setAt] = useState(0);
  const ref = useCaret(typed);
  const id = useId();
  const list = useRef<HTMLDivElement>(null);
  const found = useMemo(() => options(text), [options, text]);
  const chosen = Math.min(at, found.length - 1);

  const take = (option: Option<T> | undefined) => {
    if (!option) return;
    onSave(option.value);
    next();
  };
  const [unclear, setUnclear] = useState(false);
  // What was typed is taken where it can mean one thing alone; a guess could be a wrong one.
  useLeaving(onLeave, () => {
    if (text.trim() === (start ?? "").trim() || text.trim() === "") return true;
    const said = found.filter((o) => o.text.toLowerCase() === text.trim().toLowerCase());
    const only = said.length === 1 ? said[0] : found.length === 1 ? found[0] : undefined;
    if (only) onSave(only.value);
    else setUnclear(found.length > 1);
    return only !== undefined;
  });
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step !== 0) {
      event.preventDefault();
      setAt((chosen + step + found.length) % Math.max(1, found.length));
    }
    if (event.key === "Enter") {
      event.preventDefault();
      take(found[chosen]);
    }
  };
  useEffect(() => {
    list.current?.querySelector(`[data-at="${chosen}"]`)?.scrollIntoView?.({ block: "nearest" });
  }, [chosen]);

  return (
    <div>
      <label htmlFor={id} className="block text-faded">
        {label}
      </label>
      <input
        ref={ref}
        id={id}
        role="combobox"
        aria-expanded={found.length > 0}
        aria-controls={`${id}-list`}
        aria-activedescendant={found[chosen] ? `${id}-${chosen}` : undefined}
        aria-autocomplete="list"
        aria-invalid={found.length === 0}
        autoComplete="off"
        placeholder={placeholder}
        className={`${inputClass} mt-1`}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
          setUnclear(false);
          onText?.(event.target.value);
        }}
        onKeyDown={onKeyDown}
      />
      <div ref={list} id={`${id}-list`} role="listbox" aria-label={label} className="mt-2 max-h-64 overflow-auto">
        {found.map((option, i) => (
          <button
            key={option.text}
            type="button"
            role="option"
            tabIndex={-1}
            id={`${id}-${i}`}
            data-at={i}
            aria-selected={i === chosen}
            className="flex w-full justify-between gap-3 px-2 py-1 text-left aria-selected:bg-lit"
            onMouseMove={() => setAt(i)}
            onClick={() => take(option)}
          >
            <span>{option.text}</span>
            <span className="text-faded aria-selected:text-ink">{option.note}</span>
          </button>
        ))}
      </div>
      {unclear && <Why id={id} text="Several match: choose one, or press Esc to leave it as it was." />}
      {found.length === 0 && <Why id={id} text={props.nothing ?? "Nothing matches. Clear it to see the choices."} />}
      {after}
    </div>
  );
}

/** Options that hold every word typed. */
export function containing<T>(all: Option<T>[]) {
  return (text: string) => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    return all.filter((o) => words.every((w) => `${o.text} ${o.note ?? ""} ${o.also ?? ""}`.toLowerCase().includes(w)));
  };
}

interface TextProps extends EditorProps {
  label: string;
  value: string;
  onSave: (value: string) => void;
}

export function TextEditor({ typed, next, onLeave, label, value, onSave }: TextProps) {
  const [text, setText] = useState(typed || value);
  const ref = useCaret(typed);
  const id = useId();
  const save = () => {
    if (text.trim() !== value) onSave(text.trim());
    return true;
  };
  useLeaving(onLeave, save);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save();
        next();
      }}
    >
      <label htmlFor={id} className="block text-faded">
        {label}
      </label>
      <input
        ref={ref}
        id={id}
        className={`${inputClass} mt-1`}
        maxLength={200}
        autoComplete="off"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
    </form>
  );
}

/** A small number field inside a larger editor: saves when left or on Enter, says at once what it would take. */
export function NumberField(props: {
  label: string;
  value: number | null;
  limits: Limits;
  /** Values that are mostly met, offered while typing. */
  usual?: readonly number[];
  onSave: (v: number | null) => void;
}) {
  const { label, value, limits, usual, onSave } = props;
  const { text, setText, leave, events } = useDraft(value === null ? "" : exact(value));
  const [why, setWhy] = useState("");
  const id = useId();
  const save = () => {
    if (text.trim() === "") {
      setWhy("");
      if (value !== null) onSave(null);
      return true;
    }
    const read = readQuantity(text, limits);
    setWhy(read.ok ? "" : read.why);
    if (read.ok && read.value !== value) onSave(read.value);
    return read.ok;
  };
  return (
    <FigureInput
      {...{ id, label, text, why, usual }}
      unit={limits.unit}
      onText={setText}
      onFocus={events.onFocus}
      onBlur={() => {
        leave();
        save();
      }}
      onKeyDown={(event) => {
        events.onKeyDown(event);
        if (event.key === "Escape") setWhy("");
        if (event.key === "Enter" && !save()) event.preventDefault();
      }}
    />
  );
}

/** Numbers in a row, parted by semicolons: saves when left or on Enter, as a number field does; what is no number keeps the text. */
export function NumbersField(props: {
  label: string;
  value: readonly number[];
  limits: Limits;
  least: number;
  most: number;
  onSave: (value: number[]) => void;
}) {
  const { label, value, limits, least, most, onSave } = props;
  const before = value.map(exact).join("; ");
  const { text, setText, leave, events } = useDraft(before);
  const [why, setWhy] = useState("");
  const id = useId();
  const save = () => {
    const found = text
      .split(";")
      .filter((part) => part.trim())
      .map((part) => readQuantity(part, limits));
    const bad = found.find((part) => !part.ok);
    const count = found.length < least || found.length > most ? `${least} to ${most} numbers, separated by “;”.` : "";
    const wrong = bad && !bad.ok ? bad.why : count;
    setWhy(wrong);
    const read = found.flatMap((part) => (part.ok ? [part.value] : []));
    if (!wrong && read.map(exact).join("; ") !== before) onSave(read);
    return !wrong;
  };
  return (
    <FigureInput
      {...{ id, label, text, why }}
      several
      unit={limits.unit}
      onText={setText}
      onFocus={events.onFocus}
      onBlur={() => {
        leave();
        save();
      }}
      onKeyDown={(event) => {
        events.onKeyDown(event);
        if (event.key === "Escape") setWhy("");
        if (event.key === "Enter" && !save()) event.preventDefault();
      }}
    />
  );
}

interface FigureProps {
  id: string;
  label: string;
  text: string;
  why: string;
  unit: string;
  usual?: readonly number[];
  /** Several numbers: a keypad for figures alone has no sign to part them. */
  several?: boolean;
  onText: (text: string) => void;
  onFocus?: () => void;
  onBlur?: () => void;
  onKeyDown?: (event: KeyboardEvent) => void;
  ref?: Ref<HTMLInputElement>;
}

/** The field of a number: label, input, unit, and under it why what stands there is refused. */
function FigureInput({ id, label, text, why, unit, usual = [], several, onText, ref, ...events }: FigureProps) {
  return (
    <div>
      <label htmlFor={id} className="block text-faded">
        {label}
      </label>
      <div className="mt-1 flex items-baseline gap-2">
        <input
          ref={ref}
          id={id}
          className={`${inputClass} figure`}
          inputMode={several ? "text" : "decimal"}
          autoComplete="off"
          value={text}
          aria-invalid={why !== ""}
          aria-describedby={why ? `${id}-why` : undefined}
          list={usual.length > 0 ? `${id}-usual` : undefined}
          onChange={(event) => onText(event.target.value)}
          {...events}
        />
        {usual.length > 0 && (
          <datalist id={`${id}-usual`}>
            {usual.map((value) => (
              <option key={value} value={String(value)} />
            ))}
          </datalist>
        )}
        <span>{unit}</span>
      </div>
      <Why id={id} text={why} />
    </div>
  );
}
