import type { Circuit, Load } from "../../api/types";
import { setFields, useLimits, useStore } from "../../sync/job-context";
import { NumberEditor } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { Word } from "../../ui/word";
import { DRIVER } from "./words";

/** What of a load lies behind a driver or transformer. */
export const OF_DRIVER = ["elv_length", "elv_csa", "elv_drop"] as const;

/** How each load behind a driver or transformer is fed from there: sentences whose words are its inputs. */
export function DriverWords({ circuit }: { circuit: Circuit }) {
  const behind = circuit.loads.filter((load) => load.elv_volts !== null);
  if (behind.length === 0) return null;
  return (
    <Sentence id="driver">
      <div data-sentence data-driver className="mt-2 border-hair border-l-2 pl-3 leading-[1.7]">
        {behind.map((load) => (
          <p key={load.id}>
            {`${load.name || load.kind}: behind a driver of `}
            <Figure load={load} name="elv_volts" unit="V" empty="an output" after="," />
            {" over "}
            <Figure load={load} name="elv_length" unit="m" empty="a length" />
            {" of "}
            <Figure load={load} name="elv_csa" unit="mm²" empty="a size" after="," />
            {" which may lose "}
            <Figure load={load} name="elv_drop" unit="%" empty="a share its maker allows" after="." />
          </p>
        ))}
      </div>
    </Sentence>
  );
}

interface FigureProps {
  load: Load;
  name: "elv_volts" | (typeof OF_DRIVER)[number];
  unit: string;
  empty: string;
  after?: string;
}

function Figure({ load, name, unit, empty, after }: FigureProps) {
  const store = useStore();
  const limits = useLimits(`load.${name}`);
  const value = load[name];
  return (
    <Word
      after={after}
      label={DRIVER[name]}
      text={value === null ? empty : quantity(value, unit)}
      missing={value === null}
    >
      {(e) => (
        <NumberEditor
          {...e}
          label={limits.meaning}
          value={value}
          limits={limits}
          optional
          onSave={(v) => store.edit([setFields("load", load.id, { [name]: v })])}
        />
      )}
    </Word>
  );
}
