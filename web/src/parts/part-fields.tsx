import { type ReactNode, useEffect, useId, useRef } from "react";
import type { Field } from "../api/types";
import { useJob, useRules } from "../sync/job-context";
import { useDraft } from "../ui/draft";
import { inputClass, NumberField } from "../ui/editors";

type Values = object;
type Save = (fields: Record<string, unknown>) => void;

interface Props {
  /** The kind of part, as the fields are named: "circuit", "device", "span" and so on. */
  kind: string;
  values: Values;
  onSave: Save;
  /** Fields that have a place elsewhere on the page. */
  skip?: readonly string[];
  /** The field to go to once it is there. */
  focus?: string | null;
}

/** Every other field of a part, as the server describes it: what it means, its unit, its range, its choices. */
export function PartFields({ kind, values, onSave, skip = [], focus = null }: Props) {
  const { inputs } = useJob();
  const staged = (inputs?.stages.length ?? 0) > 0;
  const fields = useRules().fields.filter((f) => f.field.startsWith(`${kind}.`));
  // A job that is not planned in stages asks for none.
  const rest = fields.filter((f) => !skip.includes(nameOf(f)) && (staged || !nameOf(f).endsWith("_stage")));
  return (
    <div className="grid grid-cols-2 gap-x-6 gap-y-3 max-sm:grid-cols-1" data-fields={kind}>
      {rest.map((field) => (
        <Place key={field.field} name={field.field} sought={focus === nameOf(field)}>
          <OneField
            field={field}
            value={(values as Record<string, unknown>)[nameOf(field)]}
            onSave={(value) => onSave({ [nameOf(field)]: value })}
          />
        </Place>
      ))}
    </div>
  );
}

function Place({ name, sought, children }: { name: string; sought: boolean; children: ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (sought) box.current?.focus();
  }, [sought]);
  return (
    <div ref={box} data-name={name} tabIndex={-1}>
      {children}
    </div>
  );
}

const nameOf = (field: Field) => field.field.slice(field.field.indexOf(".") + 1);
/** What stands where nothing was picked: of a part there is none, of a question nobody answered it. */
const unset = (field: Field) => (field.kind === "part" ? "none" : "not entered");
const worded = (choice: string) => choice.replaceAll("_", " ") || "none";

function OneField({ field, value, onSave }: { field: Field; value: unknown; onSave: (value: unknown) => void }) {
  switch (field.kind) {
    case "number":
    case "whole":
      return (
        <NumberField
          label={field.meaning}
          value={(value as number | null) ?? null}
          limits={{ lo: field.lo, hi: field.hi, unit: field.unit, whole: field.kind === "whole" }}
          usual={field.usual}
          onSave={(v) => (v !== null || field.optional) && onSave(v)}
        />
      );
    case "flag":
      return <Flag field={field} value={value as boolean | null} onSave={onSave} />;
    case "choice":
    case "part":
      return <Choice field={field} value={value} onSave={onSave} />;
    case "text":
      return <Text field={field} value={value as string} onSave={onSave} />;
  }
}

function Flag({ field, value, onSave }: { field: Field; value: boolean | null; onSave: (v: boolean | null) => void }) {
  const id = useId();
  if (!field.optional)
    return (
      <label className="flex items-center gap-2 self-end py-1.5">
        <input type="checkbox" checked={value === true} onChange={(event) => onSave(event.target.checked)} />
        {field.meaning}
      </label>
    );
  return (
    <Select
      id={id}
      label={field.meaning}
      value={value === null ? "" : String(value)}
      options={[
        { value: "", text: "not known" },
        { value: "true", text: "yes" },
        { value: "false", text: "no" },
      ]}
      onPick={(text) => onSave(text === "" ? null : text === "true")}
    />
  );
}

interface SelectProps {
  id: string;
  label: string;
  value: string;
  options: { value: string; text: string }[];
  onPick: (value: string) => void;
}

function Select({ id, label, value, options, onPick }: SelectProps) {
  return (
    <div>
      <label htmlFor={id} className="block text-faded">
        {label}
      </label>
      <select id={id} className={`${inputClass} mt-1`} value={value} onChange={(event) => onPick(event.target.value)}>
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.text}
          </option>
        ))}
      </select>
    </div>
  );
}

function Choice({ field, value, onSave }: { field: Field; value: unknown; onSave: (v: unknown) => void }) {
  const id = useId();
  const options = useOptions(field);
  // The server names choices by text; a field whose values are numbers gets numbers back.
  const numeric = field.choices.length > 0 && field.choices.every((choice) => /^\d+$/.test(choice));
  const back = (text: string) =>
    text === "" && field.optional ? null : typeof value === "number" || numeric ? Number(text) : text;
  return (
    <Select
      id={id}
      label={field.meaning}
      value={value === null ? "" : String(value)}
      options={field.optional ? [{ value: "", text: unset(field) }, ...options] : options}
      onPick={(text) => onSave(back(text))}
    />
  );
}

/** The values of a choice; of a field that names another part, the parts of the job. */
function useOptions(field: Field): { value: string; text: string }[] {
  const { inputs } = useJob();
  const rules = useRules();
  if (field.kind === "part") {
    const parts =
      (field.field.endsWith("_stage")
        ? inputs?.stages
        : field.field.endsWith(".route")
          ? inputs?.routes
          : inputs?.boards) ?? [];
    return parts.map((p) => ({ value: p.id, text: p.name || "unnamed" }));
  }
  return field.choices.map((c) => ({ value: c, text: rules.devices.find((d) => d.id === c)?.title ?? worded(c) }));
}

function Text({ field, value, onSave }: { field: Field; value: string; onSave: (v: string) => void }) {
  const id = useId();
  const draft = useDraft(value);
  const most = field.hi ?? 200;
  // What may be long gets room for it.
  const Input = most > 300 ? "textarea" : "input";
  return (
    <div>
      <label htmlFor={id} className="block text-faded">
        {field.meaning}
      </label>
      <Input
        id={id}
        className={`${inputClass} mt-1`}
        maxLength={most}
        autoComplete="off"
        {...draft.events}
        onKeyDown={(event) => {
          draft.events.onKeyDown(event);
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        value={draft.text}
        onBlur={() => {
          draft.leave();
          if (draft.text !== value) onSave(draft.text);
        }}
      />
    </div>
  );
}
