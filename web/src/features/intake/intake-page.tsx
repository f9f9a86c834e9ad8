import { useEffect } from "react";
import type { Change, Supply } from "../../api/types";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { SOURCES } from "../../parts/sources";
import { NOBODY, setFields, useJob, useLimits, useStore } from "../../sync/job-context";
import { ComboEditor, containing, NumberEditor, TextEditor } from "../../ui/editors";
import { quantity, shortFigure } from "../../ui/quantity";
import { Sentence, useWords } from "../../ui/sentence";
import { Opening } from "../../ui/view";
import { Word } from "../../ui/word";

/** What the sentences above say. */
const SENTENCE = ["earthing", "phases", "u0", "ze", "ipf", "fuse_kind", "fuse_in", "tails_csa", "private"];

type Sourced = "ze" | "ipf" | "fuse_in";
const SOURCE_OF = { ze: "ze_source", ipf: "ipf_source", fuse_in: "fuse_source" } as const;
const EARTHING = [
  { value: "TN-C-S", text: "TN-C-S", note: "earth from the supplier's combined conductor" },
  { value: "TN-S", text: "TN-S", note: "earth from the supplier's own conductor" },
  { value: "TT", text: "TT", note: "earth electrode of the installation" },
];
const FUSES = [
  { value: "BS88-3", text: "BS 88-3" },
  { value: "BS88-2", text: "BS 88-2 gG" },
  { value: "BS1361", text: "BS 1361 type 2" },
];

/** The intake as surveyed, as sentences; each value says where it comes from. */
export function IntakePage({ field }: { field: string | null }) {
  const store = useStore();
  const { state, inputs, name } = useJob();
  const opened = state !== null;
  const ways = useLimits("board.ways");
  const words = useWords();
  const asked = field?.replace("supply.", "") ?? null;
  const elsewhere = asked !== null && !SENTENCE.includes(asked);
  useEffect(() => {
    if (opened && !elsewhere && !(asked && words.focus(`intake-${asked}`))) words.focusMissing();
  }, [asked, elsewhere, opened, words]);
  if (!inputs) return <Opening />;
  const { supply } = inputs;
  const set = (fields: Change["fields"]) => store.edit([setFields("supply", NOBODY, fields)]);
  return (
    <div className="max-w-3xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">Intake</h1>
      <p className="mt-1 text-faded">
        What is there, and how it is known. What is assumed stays marked through to the printed page.
      </p>
      <Sentence id="intake">
        <div data-sentence className="mt-5 flex flex-col gap-4 text-[1.2rem] leading-[1.7]">
          <p>
            {"The job is called "}
            <Word label="job name" text={name}>
              {(e) => (
                <TextEditor
                  {...e}
                  label="Name of the job"
                  value={name}
                  onSave={(v) => v && store.edit([setFields("job", NOBODY, { name: v })])}
                />
              )}
            </Word>
            .
          </p>
          <p>
            {"The supply is "}
            <Word
              label="earthing"
              id="intake-earthing"
              text={supply.earthing ?? "an earthing arrangement"}
              missing={!supply.earthing}
              wide
            >
              {(e) => (
                <ComboEditor
                  {...e}
                  label="Earthing arrangement"
                  options={containing(EARTHING)}
                  onSave={(earthing) => set({ earthing })}
                />
              )}
            </Word>
            {", "}
            <Word label="phases" text={supply.phases === 1 ? "single-phase" : "three-phase"}>
              {(e) => (
                <ComboEditor
                  {...e}
                  label="Phases"
                  options={containing([
                    { value: 1, text: "single-phase" },
                    { value: 3, text: "three-phase" },
                  ])}
                  onSave={(phases) => set({ phases })}
                />
              )}
            </Word>
            {", "}
            <SupplyNumber name="u0" label="U0, line to earth" unit="V" set={set} supply={supply} />
            {" line to earth, from "}
            <Word label="network" text={supply.private ? "a private supply" : "the public network"}>
              {(e) => (
                <ComboEditor
                  {...e}
                  label="Network"
                  options={containing([
                    { value: false, text: "the public network" },
                    { value: true, text: "a private supply", note: "own generator or transformer" },
                  ])}
                  onSave={(v) => set({ private: v })}
                />
              )}
            </Word>
            .
          </p>
          <p>
            {"Ze is "}
            <SupplyNumber name="ze" label="Ze, external loop impedance" unit="Ω" set={set} supply={supply} />
            {", "}
            <SourceWord name="ze" set={set} supply={supply} />
            {"; the prospective fault current line to neutral is "}
            <SupplyNumber name="ipf" label="Ipf, line to neutral at the origin" unit="A" set={set} supply={supply} />
            {", "}
            <SourceWord name="ipf" set={set} supply={supply} />.
          </p>
          <p>
            {"The service fuse is a "}
            <Word
              label="fuse kind"
              text={FUSES.find((f) => f.value === supply.fuse_kind)?.text ?? "kind to enter"}
              missing={!supply.fuse_kind}
            >
              {(e) => (
                <ComboEditor
                  {...e}
                  label="Kind of service fuse"
                  options={containing(FUSES)}
                  onSave={(v) => set({ fuse_kind: v })}
                />
              )}
            </Word>
            {" of "}
            <SupplyNumber name="fuse_in" label="Rating of the service fuse" unit="A" set={set} supply={supply} />
            {", "}
            <SourceWord name="fuse_in" set={set} supply={supply} />
            {"; the tails are "}
            <SupplyNumber name="tails_csa" label="Csa of the meter tails" unit="mm²" set={set} supply={supply} />.
          </p>
          {inputs.boards.map((board) => (
            <p key={board.id}>
              {"There is a board called "}
              <Word label="board name" text={board.name || "a name"} missing={!board.name}>
                {(e) => (
                  <TextEditor
                    {...e}
                    label="Name of the board"
                    value={board.name}
                    onSave={(v) => store.edit([setFields("board", board.id, { name: v })])}
                  />
                )}
              </Word>
              {" with "}
              <Word
                label="ways"
                text={board.ways === null ? "ways to enter" : `${board.ways} ways`}
                missing={board.ways === null}
              >
                {(e) => (
                  <NumberEditor
                    {...e}
                    label="Number of ways"
                    value={board.ways}
                    limits={{ ...ways, unit: "", whole: true }}
                    optional
                    onSave={(v) => store.edit([setFields("board", board.id, { ways: v })])}
                  />
                )}
              </Word>
              .
            </p>
          ))}
        </div>
      </Sentence>
      <div>
        <More
          title="Everything else of the intake"
          note="the note of the job, kind of premises, declared maximum, earthing conductor, bonding"
          open={field !== null}
        >
          <PartFields
            kind="job"
            values={inputs}
            skip={["name"]}
            onSave={(fields) => store.edit([setFields("job", NOBODY, fields)])}
          />
          <div className="mt-3" />
          <PartFields
            kind="supply"
            values={supply}
            focus={elsewhere ? asked : null}
            onSave={set}
            skip={[...SENTENCE, "ze_source", "ipf_source", "fuse_source"]}
          />
        </More>
      </div>
      <p className="mt-8 max-w-prose border-hair border-t pt-3 text-faded">
        Reading Ze and Ipf is live work: for a competent person with the right instrument, leads and protection. The
        supplier's declared maximum may stand in until then; mark it as declared.
      </p>
    </div>
  );
}

interface Part {
  supply: Supply;
  set: (fields: Change["fields"]) => void;
}

function SupplyNumber({
  name,
  label,
  unit,
  supply,
  set,
}: Part & { name: "u0" | "ze" | "ipf" | "fuse_in" | "tails_csa"; label: string; unit: string }) {
  const limits = useLimits(`supply.${name}`);
  const value = supply[name];
  const source = name in SOURCE_OF ? supply[SOURCE_OF[name as Sourced]] : null;
  const text =
    value === null
      ? `${unit === "Ω" ? "an impedance" : unit === "mm²" ? "a size" : "a current"} to enter`
      : unit === "Ω"
        ? `${shortFigure(value)} Ω`
        : quantity(value, unit);
  return (
    <Word
      label={label}
      id={`intake-${name}`}
      text={text}
      missing={value === null}
      assumed={value !== null && source === "assumed"}
    >
      {(e) => (
        <NumberEditor
          {...e}
          label={label}
          value={value}
          limits={limits}
          optional={name !== "u0"}
          onSave={(v) => set({ [name]: v })}
        />
      )}
    </Word>
  );
}

function SourceWord({ name, supply, set }: Part & { name: Sourced }) {
  const key = SOURCE_OF[name];
  const notes = {
    measured: "read here with an instrument",
    declared: "told by the supplier",
    assumed: "not known for sure",
  };
  return (
    <Word label={`source of ${name}`} text={supply[key]} assumed={supply[key] === "assumed"}>
      {(e) => (
        <ComboEditor
          {...e}
          label="Where it comes from"
          options={containing(SOURCES.map((s) => ({ value: s, text: s, note: notes[s] })))}
          onSave={(source) => set({ [key]: source })}
        />
      )}
    </Word>
  );
}
