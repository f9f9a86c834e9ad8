import type { Change, Circuit, Span } from "../../api/types";
import { setFields, useLimits, useRules, useStore } from "../../sync/job-context";
import { befores, cablesOf } from "../../sync/legs";
import { ComboEditor, containing, NumberEditor } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { Word } from "../../ui/word";
import { Pick } from "./source-words";
import { OWN_CABLE } from "./words";

type Fields = Change["fields"];

/** The type of the cable before a span, and its csa. */
function cableBefore(circuit: Circuit, span: Span): { family: string | null; csa: number | null } {
  const spans = circuit.run.spans;
  const before = befores(spans)?.get(span.id) ?? null;
  const from = before === null ? null : (cablesOf(spans).get(before) ?? null);
  if (!from) return circuit.run.cable;
  return { family: from.own_family ?? cableBefore(circuit, from).family, csa: from.own_csa };
}

/** The type and csa of the cable that begins with a span. */
export const cableOf = (circuit: Circuit, span: Span) => ({
  family: span.own_family ?? cableBefore(circuit, span).family,
  csa: span.own_csa,
});

/** The fields with which another cable begins: as the one before it, until somebody says how it differs. */
export function otherCable(circuit: Circuit, span: Span): Fields {
  const { family, csa } = cableBefore(circuit, span);
  return { own_family: family, own_csa: csa };
}

const JOINTS = [
  { value: "terminals" as Span["joint"], text: "with terminals", note: "in a junction box" },
  { value: "maintenance_free" as Span["joint"], text: "by a maintenance-free joint", note: "needs no access" },
  { value: "crimped" as Span["joint"], text: "crimped", note: "needs no access" },
  { value: "resin" as Span["joint"], text: "by a joint filled with resin", note: "may be buried" },
  { value: "" as Span["joint"], text: "in a way not entered" },
];
const REACHED = [
  { value: true as boolean | null, text: "that can be reached" },
  { value: false as boolean | null, text: "that cannot be reached" },
  { value: null as boolean | null, text: "whose access is not entered" },
];
const OVERLOAD = [
  { value: "device" as Span["own_overload"], text: "by the device of the circuit", note: "In at most its Iz" },
  { value: "fuse" as Span["own_overload"], text: "by the fuse at its end", note: "no outlet before it" },
  { value: "cannot" as Span["own_overload"], text: "omitted: its load cannot overload", note: "a fixed heating load" },
];
const SHORT = [
  { value: true as boolean | null, text: "at its end too, at most 3 m away", note: "run so that faults are unlikely" },
  { value: false as boolean | null, text: "by the device of the circuit" },
  { value: null as boolean | null, text: "by the device of the circuit, as nothing else is entered" },
];
const CPC = [
  { value: "usual" as Span["own_cpc"], text: "its usual cpc" },
  { value: "core" as Span["own_cpc"], text: "a core as cpc" },
  { value: "separate" as Span["own_cpc"], text: "a separate cpc" },
  { value: "armour" as Span["own_cpc"], text: "its armour as cpc" },
  { value: "armour_and_core" as Span["own_cpc"], text: "armour and a core as cpc" },
];

/** The cable that begins with a span: its size and type, how it is joined, and what protects it. Words of the span's sentence. */
export function OwnCable({ circuit, span }: { circuit: Circuit; span: Span }) {
  const store = useStore();
  const rules = useRules();
  const set = (fields: Fields) => store.edit([setFields("span", span.id, fields)]);
  const before = befores(circuit.run.spans)?.get(span.id) ?? null;
  const family = rules.families.find((f) => f.id === (span.own_family ?? cableBefore(circuit, span).family));
  const types = rules.families.map((f) => ({ value: f.id, text: f.title }));
  const sizes = (family?.sizes ?? []).map((s) => ({ value: s, text: quantity(s, "mm²") }));
  return (
    <span data-own-cable>
      {OWN_CABLE.fromHere}
      <Word
        label={OWN_CABLE.csa}
        text={span.own_csa === null ? "a size" : quantity(span.own_csa, "mm²")}
        missing={span.own_csa === null}
      >
        {(e) => (
          <ComboEditor
            {...e}
            label={OWN_CABLE.csaTitle}
            options={containing(sizes)}
            onSave={(own_csa) => set({ own_csa, own_cpc_csa: null })}
          />
        )}
      </Word>{" "}
      <Word label={OWN_CABLE.family} text={family?.title ?? "a type not chosen"} missing={!family} wide>
        {(e) => (
          <ComboEditor
            {...e}
            label={OWN_CABLE.familyTitle}
            options={containing(types)}
            onSave={(own_family) => set({ own_family })}
          />
        )}
      </Word>{" "}
      {family?.cpc === "armour" && (
        <>
          {"of "}
          <Cores span={span} set={set} />{" "}
        </>
      )}
      {"with "}
      <Pick
        after={before === null ? ";" : ","}
        label={OWN_CABLE.cpc}
        title={OWN_CABLE.cpcTitle}
        value={span.own_cpc}
        options={CPC}
        onSave={(own_cpc) => set({ own_cpc })}
      />{" "}
      {before !== null && (
        <>
          {"joined "}
          <Pick
            after={span.joint === "terminals" ? undefined : ";"}
            label={OWN_CABLE.joint}
            title={OWN_CABLE.jointTitle}
            value={span.joint}
            options={JOINTS}
            missing={span.joint === ""}
            onSave={(joint) => set({ joint })}
          />{" "}
          {span.joint === "terminals" && (
            <Pick
              after=";"
              label={OWN_CABLE.reached}
              title={OWN_CABLE.reachedTitle}
              value={span.joint_reached}
              options={REACHED}
              onSave={(joint_reached) => set({ joint_reached })}
            />
          )}
        </>
      )}
      {" overload protection "}
      <Pick
        after={span.own_overload === "fuse" ? "," : "."}
        label={OWN_CABLE.overload}
        title={OWN_CABLE.overloadTitle}
        value={span.own_overload}
        options={OVERLOAD}
        onSave={(own_overload) => set({ own_overload })}
      />
      {span.own_overload === "fuse" && (
        <>
          {" fault protection "}
          <Pick
            after="."
            label={OWN_CABLE.short}
            title={OWN_CABLE.shortTitle}
            value={span.own_short}
            options={SHORT}
            missing={false}
            onSave={(own_short) => set({ own_short })}
          />
        </>
      )}
    </span>
  );
}

function Cores({ span, set }: { span: Span; set: (fields: Fields) => void }) {
  const limits = useLimits("span.own_cores");
  return (
    <Word label={OWN_CABLE.cores} text={span.own_cores === null ? "the usual cores" : `${span.own_cores} cores`}>
      {(e) => (
        <NumberEditor
          {...e}
          label={OWN_CABLE.coresTitle}
          value={span.own_cores}
          limits={limits}
          optional
          onSave={(own_cores) => set({ own_cores })}
        />
      )}
    </Word>
  );
}
