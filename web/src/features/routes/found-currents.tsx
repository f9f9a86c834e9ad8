import type { Circuit } from "../../api/types";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { setFields, useRules, useStore } from "../../sync/job-context";
import { FOUND_CURRENTS } from "./words";

const FOUND = ["group_amps", "group_amps_by"];

/** Currents found in place of Ib for the heating of a group: the designer's judgement, with how each was found. */
export function FoundCurrents({ circuits }: { circuits: readonly Circuit[] }) {
  const store = useStore();
  const rules = useRules();
  const skip = rules.fields
    .filter((f) => f.field.startsWith("circuit."))
    .map((f) => f.field.slice("circuit.".length))
    .filter((name) => !FOUND.includes(name));
  if (circuits.length === 0) return null;
  return (
    <More title={FOUND_CURRENTS.currents} note={FOUND_CURRENTS.judgement}>
      <p className="max-w-prose text-faded">{FOUND_CURRENTS.how}</p>
      {circuits.map((circuit) => (
        <fieldset key={circuit.id} className="mt-3">
          <legend className="font-semibold">{circuit.name || "Unnamed circuit"}</legend>
          <PartFields
            kind="circuit"
            values={circuit}
            onSave={(fields) => store.edit([setFields("circuit", circuit.id, fields)])}
            skip={skip}
          />
        </fieldset>
      ))}
    </More>
  );
}
