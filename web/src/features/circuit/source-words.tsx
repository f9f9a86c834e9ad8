import type { Board, Change, Circuit, Installation, Load } from "../../api/types";
import { setFields, useJob, useLimits, useStore } from "../../sync/job-context";
import { ComboEditor, containing, NumberEditor } from "../../ui/editors";
import { quantity, shortFigure } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { Word } from "../../ui/word";
import { SOURCE } from "./words";

/** Loads that give: they feed what stands beside them. */
export const gives = (load: Load) => load.kind === "inverter" || load.kind === "generator";

type Fields = Change["fields"];

interface Part {
  load: Load;
  set: (fields: Fields) => void;
}

/** How each source on the circuit meets the network, and what it does without it: sentences whose words are its inputs. */
export function SourceWords({ circuit }: { circuit: Circuit }) {
  const store = useStore();
  const { inputs } = useJob();
  const sources = circuit.loads.filter(gives);
  if (!inputs || sources.length === 0) return null;
  const { device } = circuit;
  return (
    <Sentence id="source">
      <div data-sentence className="mt-2 border-hair border-l-2 pl-3 leading-[1.7]">
        {sources.map((load) => {
          const set = (fields: Fields) => store.edit([setFields("load", load.id, fields)]);
          return (
            <p key={load.id}>
              <Joined load={load} set={set} rcd={hasRcd(inputs, circuit)} />
              <Faults load={load} set={set} />
              <Without load={load} set={set} boards={inputs.boards} own={circuit.board} />
            </p>
          );
        })}
        {(device.idn !== null || device.afdd) && (
          <p>
            {SOURCE.deviceOf}
            <Pick
              after="."
              label="direction"
              title={SOURCE.direction}
              value={device.both_ways}
              options={BOTH_WAYS}
              onSave={(both_ways) => store.edit([setFields("circuit", circuit.id, { device: { both_ways } })])}
            />
          </p>
        )}
      </div>
    </Sentence>
  );
}

const BOTH_WAYS = [
  { value: true as boolean | null, text: "works with current in both directions", note: "its maker says so" },
  { value: false as boolean | null, text: "is for current in one direction", note: "marked in, out, line or load" },
  { value: null as boolean | null, text: "has a direction not entered" },
];
const JOINS = [
  { value: "way" as Load["joins"], text: "in parallel with the mains", note: "by a way of the board" },
  {
    value: "changeover" as Load["joins"],
    text: "instead of the mains",
    note: "by a change-over switch ahead of the board",
  },
  { value: null as Load["joins"], text: "in a way not entered" },
];
const CUTS_OUT = [
  { value: true as boolean | null, text: "it disconnects itself when the mains fails", note: "its maker declares it" },
  { value: false as boolean | null, text: "it stays on when the mains fails" },
  { value: null as boolean | null, text: "whether it disconnects itself when the mains fails is not entered" },
];
const BATTERY = [
  { value: true as boolean | null, text: "it has a battery", note: "it draws as well, to charge" },
  { value: false as boolean | null, text: "it has no battery" },
  { value: null as boolean | null, text: "whether it has a battery is not entered" },
];
const PARTED = [
  {
    value: true as boolean | null,
    text: "a change-over that opens every live conductor",
    note: "and cannot connect the two",
  },
  { value: false as boolean | null, text: "a switch that can leave the two connected" },
  { value: null as boolean | null, text: "a switch not entered" },
];
const RCD = [
  { value: "A" as Load["maker_rcd"], text: "type A" },
  { value: "F" as Load["maker_rcd"], text: "type F" },
  { value: "B" as Load["maker_rcd"], text: "type B" },
  { value: null as Load["maker_rcd"], text: "a type not entered", note: "type B is taken" },
];
const EARTH = [
  {
    value: "electrode" as Load["alone_earth"],
    text: "an earth electrode of the installation",
    note: "by its own switch, with the mains off",
  },
  {
    value: "supply" as Load["alone_earth"],
    text: "the supply earth alone",
    note: "which may be lost with the mains",
  },
  { value: "none" as Load["alone_earth"], text: "no earth" },
  { value: null as Load["alone_earth"], text: "an earth not entered" },
];

const sentenceCase = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** Whether an RCD stands at the circuit or at a board or feed on the way to the meter. */
function hasRcd(job: Installation, circuit: Circuit): boolean {
  if (circuit.device.idn !== null) return true;
  const board = job.boards.find((b) => b.id === circuit.board);
  if (board && [board.rcd_idn, board.rcd2_idn, board.rcd3_idn].some((idn) => idn !== null)) return true;
  const feed = job.circuits.find((c) => c.feeds === circuit.board);
  return feed !== undefined && hasRcd(job, feed);
}

function Joined({ load, set, rcd }: Part & { rcd: boolean }) {
  return (
    <>
      {sentenceCase(load.name || load.kind)}
      {" feeds "}
      <Pick
        after={load.joins === "way" ? ";" : "."}
        label="how it is connected"
        title={SOURCE.joins}
        value={load.joins}
        options={JOINS}
        onSave={(joins) => set({ joins })}
      />{" "}
      {load.joins === "way" && (
        <>
          <Pick
            after={load.kind === "inverter" ? "," : "."}
            label="mains failure"
            title={SOURCE.lossOfNetwork}
            value={load.loss_of_mains}
            options={CUTS_OUT}
            onSave={(loss_of_mains) => set({ loss_of_mains })}
          />{" "}
        </>
      )}
      {load.kind === "inverter" && (
        <>
          <Pick
            after="."
            label="battery"
            title={SOURCE.battery}
            value={load.battery}
            options={BATTERY}
            onSave={(battery) => set({ battery })}
          />
          {(rcd || load.maker_rcd !== null) && (
            <>
              {" Its maker requires an RCD of "}
              <Pick
                after="."
                label="RCD type required"
                title={SOURCE.makerRcd}
                value={load.maker_rcd}
                options={RCD}
                onSave={(maker_rcd) => set({ maker_rcd })}
              />
            </>
          )}
        </>
      )}
    </>
  );
}

function Faults({ load, set }: Part) {
  const usual = load.kind === "inverter" ? SOURCE.usualFault : "a current not entered";
  return (
    <>
      {SOURCE.atMost}
      <Amount
        after="."
        label="fault current"
        title={SOURCE.faultAmps}
        name="fault_amps"
        unit="A"
        load={load}
        set={set}
        empty={usual}
        missing={load.kind === "generator" && load.joins !== "changeover"}
      />
    </>
  );
}

function Without({ load, set, boards, own }: Part & { boards: readonly Board[]; own: string }) {
  const instead = load.joins === "changeover";
  const kept = load.alone ?? (instead ? own : null);
  const named = boards.find((b) => b.id === kept)?.name || "a board";
  return (
    <>
      {SOURCE.without}
      <Word after={kept ? "," : "."} label="board supplied" text={kept ? named : "no board"}>
        {(e) => (
          <ComboEditor
            {...e}
            label={SOURCE.boardKept}
            options={containing([
              { value: null as string | null, text: instead ? "its own board" : "no board" },
              ...boards.map((b) => ({ value: b.id as string | null, text: b.name || "Unnamed board" })),
            ])}
            onSave={(alone) => set({ alone })}
          />
        )}
      </Word>
      {kept && (
        <>
          {" disconnected from the mains by "}
          <Pick
            after=";"
            label="change-over"
            title={SOURCE.parted}
            value={load.parted}
            options={PARTED}
            onSave={(parted) => set({ parted })}
          />
          {" its neutral is then connected to "}
          <Pick
            after={load.alone_earth === "electrode" ? undefined : "."}
            label="earth of its neutral"
            title={SOURCE.earth}
            value={load.alone_earth}
            options={EARTH}
            onSave={(alone_earth) => set({ alone_earth })}
          />
          {load.alone_earth === "electrode" && (
            <>
              {" of "}
              <Amount
                after="."
                label="RA"
                title={SOURCE.ra}
                name="alone_ra"
                unit="Ω"
                load={load}
                set={set}
                empty="a resistance not entered"
                missing
              />
            </>
          )}
          {" At a fault it cuts itself off in "}
          <Amount
            after=","
            label="cut-off"
            title={SOURCE.off}
            name="alone_off"
            unit="s"
            load={load}
            set={set}
            empty="a time not entered"
          />
          {" and until then gives "}
          <Amount
            after="."
            label="least fault current"
            title={SOURCE.least}
            name="alone_amps"
            unit="A"
            load={load}
            set={set}
            empty="a current its maker does not state"
          />
        </>
      )}
    </>
  );
}

interface PickProps<T> {
  label: string;
  title: string;
  value: T;
  options: { value: T; text: string; note?: string }[];
  after?: string;
  /** Whether nobody has answered yet; where it is not said, while the answer is null. */
  missing?: boolean;
  onSave: (value: T) => void;
}

/** One of a few answers; nobody's answer yet is told as missing. */
export function Pick<T extends string | boolean | null>(props: PickProps<T>) {
  const { label, title, value, options, after, missing = value === null, onSave } = props;
  const text = options.find((o) => o.value === value)?.text ?? String(value);
  return (
    <Word after={after} label={label} text={text} missing={missing} wide>
      {(e) => <ComboEditor {...e} label={title} options={containing(options)} onSave={onSave} />}
    </Word>
  );
}

type Named = "fault_amps" | "alone_ra" | "alone_off" | "alone_amps";

function Amount({
  label,
  title,
  name,
  unit,
  load,
  set,
  empty,
  after,
  missing = false,
}: Part & {
  label: string;
  title: string;
  name: Named;
  unit: string;
  empty: string;
  after: string;
  missing?: boolean;
}) {
  const limits = useLimits(`load.${name}`);
  const value = load[name];
  return (
    <Word
      after={after}
      label={label}
      text={value === null ? empty : unit === "Ω" ? `${shortFigure(value)} Ω` : quantity(value, unit)}
      missing={value === null && missing}
    >
      {(e) => (
        <NumberEditor {...e} label={title} value={value} limits={limits} optional onSave={(v) => set({ [name]: v })} />
      )}
    </Word>
  );
}
