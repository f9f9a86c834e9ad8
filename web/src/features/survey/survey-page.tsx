import { useEffect } from "react";
import { Link, useNavigate } from "react-router";
import type { Change, Cited, Supply } from "../../api/types";
import { CheckList } from "../../parts/check-list";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { usePaths } from "../../parts/paths";
import { PlaceWays } from "../../parts/place-ways";
import { SOURCES } from "../../parts/sources";
import { useOverview } from "../../parts/use-overview";
import { NOBODY, setFields, useJob, useLimits, useRules, useStore } from "../../sync/job-context";
import { ComboEditor, containing, NumberEditor, TextEditor } from "../../ui/editors";
import { quantity, shortFigure } from "../../ui/quantity";
import { Sentence, useWords } from "../../ui/sentence";
import { Opening } from "../../ui/view";
import { Word } from "../../ui/word";
import { Assumptions } from "./assumptions";
import { IntakeDrawing } from "./intake-drawing";
import { OtherSources } from "./other-sources";
import { SURVEY } from "./words";

/** What the sentences above say. */
const SENTENCE = [
  "earthing",
  "phases",
  "u0",
  "ze",
  "ipf",
  "fuse_kind",
  "fuse_in",
  "tails_csa",
  "private",
  "tails_length",
  "earthing_csa",
  "bonding_csa",
  "extraneous",
  "surge",
];

type Sourced = "ze" | "ipf" | "fuse_in";
const SOURCE_OF = { ze: "ze_source", ipf: "ipf_source", fuse_in: "fuse_source" } as const;
const EARTHING = [
  { value: "TN-C-S", text: "TN-C-S", note: "PME: distributor's combined neutral and earth (PEN)" },
  { value: "TN-S", text: "TN-S", note: "distributor's separate earth, often the cable sheath" },
  { value: "TT", text: "TT", note: "installation's own earth electrode" },
];
/** What the checks of this view are; those of demand, earthing and bonding have views of their own. */
const ELSEWHERE = ["demand", "earthing", "bonding"];

interface Props {
  /** The field to go to. */
  field: string | null;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

/** The intake as surveyed, as sentences; each value says where it comes from. */
export function SurveyPage({ field, onCircuit, onTable }: Props) {
  const store = useStore();
  const { state, inputs, name } = useJob();
  const found = useOverview();
  const opened = state !== null;
  const ways = useLimits("board.ways");
  const rules = useRules();
  const fuses = (rules.fields.find((f) => f.field === "supply.fuse_kind")?.choices ?? []).map((kind) => ({
    value: kind,
    text: rules.devices.find((d) => d.id === kind)?.title.replace(/ fuse$/, "") ?? kind,
  }));
  const words = useWords();
  const navigate = useNavigate();
  const paths = usePaths();
  const onBoard = (id: string) => navigate(paths.board(id));
  const wrong = (found.data?.intake ?? [])
    .filter((c) => !ELSEWHERE.includes(c.id) && (c.verdict === "short" || c.verdict === "not_known"))
    .map((c) => c.id);
  const asked = field?.replace("supply.", "") ?? null;
  const elsewhere = asked !== null && !SENTENCE.includes(asked);
  useEffect(() => {
    if (opened && !elsewhere && !(asked && words.focus(`intake-${asked}`))) words.focusMissing();
  }, [asked, elsewhere, opened, words]);
  if (!inputs) return <Opening />;
  const { supply } = inputs;
  const fuse = fuses.find((f) => f.value === supply.fuse_kind)?.text;
  const set = (fields: Change["fields"]) => store.edit([setFields("supply", NOBODY, fields)]);
  return (
    <div className="px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{SURVEY.survey}</h1>
      <p className="mt-1 text-faded">{SURVEY.supplyIntakeHow}</p>
      <div className="mt-4 grid grid-cols-[minmax(0,1fr)_24rem] gap-x-8 gap-y-4 max-lg:grid-cols-1">
        <Sentence id="intake">
          <div data-sentence className="flex flex-col gap-3 text-[1.15rem] leading-[1.6]">
            <p>
              {SURVEY.jobCalled}
              <Word after="." label={SURVEY.jobName} text={name}>
                {(e) => (
                  <TextEditor
                    {...e}
                    label={SURVEY.nameJob}
                    value={name}
                    onSave={(v) => v && store.edit([setFields("job", NOBODY, { name: v })])}
                  />
                )}
              </Word>
              {" It is designed to "}
              <Link className="word" to={paths.books()}>
                <span className="whitespace-nowrap">{rules.title.split(" with ")[0]}</span>
                {rules.title
                  .split(" with ")
                  .slice(1)
                  .map((pack) => ` with ${pack}`)}
              </Link>
              .
            </p>
            <p>
              {SURVEY.supply}
              <Word
                after=","
                label="earthing"
                id="intake-earthing"
                text={supply.earthing ?? "an earthing arrangement"}
                missing={!supply.earthing}
                wide
              >
                {(e) => (
                  <ComboEditor
                    {...e}
                    label={SURVEY.earthingArrangement}
                    options={containing(EARTHING)}
                    onSave={(earthing) => set({ earthing })}
                  />
                )}
              </Word>{" "}
              <Word after="," label="phases" text={supply.phases === 1 ? "single-phase" : "three-phase"}>
                {(e) => (
                  <ComboEditor
                    {...e}
                    label={SURVEY.phases}
                    options={containing([
                      { value: 1, text: "single-phase" },
                      { value: 3, text: "three-phase" },
                    ])}
                    onSave={(phases) => set({ phases })}
                  />
                )}
              </Word>{" "}
              <SupplyNumber name="u0" label={SURVEY.u0LineEarth} unit="V" set={set} supply={supply} />
              {" line to earth, from "}
              <Word after="." label="network" text={supply.private ? "a private supply" : "the public network"}>
                {(e) => (
                  <ComboEditor
                    {...e}
                    label={SURVEY.network}
                    options={containing([
                      { value: false, text: "the public network" },
                      { value: true, text: "a private supply", note: "own generator or transformer" },
                    ])}
                    onSave={(v) => set({ private: v })}
                  />
                )}
              </Word>
            </p>
            <p>
              {"Ze is "}
              <SupplyNumber after="," name="ze" label={SURVEY.zeExternalLoop} unit="Ω" set={set} supply={supply} />{" "}
              <SourceWord after=";" name="ze" set={set} supply={supply} />
              {" the prospective fault current line to neutral is "}
              <SupplyNumber after="," name="ipf" label={SURVEY.ipfLineNeutral} unit="A" set={set} supply={supply} />{" "}
              <SourceWord after="." name="ipf" set={set} supply={supply} />
            </p>
            <p>
              {SURVEY.serviceFuse}
              <Word label={SURVEY.fuseKind} text={fuse ?? "kind not entered"} missing={!supply.fuse_kind}>
                {(e) => (
                  <ComboEditor
                    {...e}
                    label={SURVEY.kindServiceFuse}
                    options={containing(fuses)}
                    onSave={(v) => set({ fuse_kind: v })}
                  />
                )}
              </Word>
              {" of "}
              <SupplyNumber
                after=","
                name="fuse_in"
                label={SURVEY.ratingServiceFuse}
                unit="A"
                set={set}
                supply={supply}
              />{" "}
              <SourceWord after=";" name="fuse_in" set={set} supply={supply} />
              {" the tails are "}
              <SupplyNumber
                after=","
                name="tails_csa"
                label={SURVEY.csaMeterTails}
                unit="mm²"
                set={set}
                supply={supply}
              />{" "}
              <SupplyNumber name="tails_length" label={SURVEY.lengthTails} unit="m" set={set} supply={supply} />
              {" long."}
            </p>
            <p>
              {SURVEY.mainEarthingConductor}
              <SupplyNumber
                after=";"
                name="earthing_csa"
                label={SURVEY.csaEarthingConductor}
                unit="mm²"
                set={set}
                supply={supply}
              />
              {" metal services that need bonding "}
              <Word
                after={supply.extraneous === false ? "." : ","}
                label={SURVEY.metalServices}
                text={
                  supply.extraneous === null
                    ? "are not checked yet"
                    : supply.extraneous
                      ? "are present"
                      : "are not present"
                }
                missing={supply.extraneous === null}
              >
                {(e) => (
                  <ComboEditor
                    {...e}
                    label={SURVEY.metalServicesStructure}
                    options={containing([
                      { value: true as boolean | null, text: "are present", note: "water, gas, oil, structural steel" },
                      { value: false as boolean | null, text: "are not present", note: "checked, none found" },
                      { value: null as boolean | null, text: "are not checked yet" },
                    ])}
                    onSave={(extraneous) => set({ extraneous })}
                  />
                )}
              </Word>
              {supply.extraneous !== false && supply.bond === "none" && " not bonded."}
              {supply.extraneous !== false && supply.bond !== "none" && (
                <>
                  {" bonded with "}
                  <SupplyNumber
                    after="."
                    name="bonding_csa"
                    label={SURVEY.csaMainBonding}
                    unit="mm²"
                    set={set}
                    supply={supply}
                  />
                </>
              )}
              {" Surge protection is "}
              <Word
                after="."
                label={SURVEY.surgeProtection}
                text={
                  supply.surge === null ? "not decided" : supply.surge === "fitted" ? "fitted" : "omitted with a reason"
                }
                missing={supply.surge === null}
              >
                {(e) => (
                  <ComboEditor
                    {...e}
                    label={SURVEY.surgeProtection2}
                    options={containing([
                      { value: "fitted" as Supply["surge"], text: "fitted" },
                      {
                        value: "declined" as Supply["surge"],
                        text: "omitted with a reason",
                        note: "give the reason below",
                      },
                      { value: null as Supply["surge"], text: "not decided" },
                    ])}
                    onSave={(surge) => set({ surge })}
                  />
                )}
              </Word>
            </p>
            {inputs.boards.map((board) => (
              <p key={board.id}>
                {SURVEY.thereBoardCalled}
                <Word label={SURVEY.boardName} text={board.name || "a name"} missing={!board.name}>
                  {(e) => (
                    <TextEditor
                      {...e}
                      label={SURVEY.nameBoard}
                      value={board.name}
                      onSave={(v) => store.edit([setFields("board", board.id, { name: v })])}
                    />
                  )}
                </Word>
                {" with "}
                <Word
                  after="."
                  label="ways"
                  text={board.ways === null ? "ways not entered" : `${board.ways} ways`}
                  missing={board.ways === null}
                >
                  {(e) => (
                    <NumberEditor
                      {...e}
                      label={SURVEY.numberWays}
                      value={board.ways}
                      limits={{ ...ways, unit: "", whole: true }}
                      optional
                      onSave={(v) => store.edit([setFields("board", board.id, { ways: v })])}
                    />
                  )}
                </Word>
              </p>
            ))}
          </div>
        </Sentence>
        <IntakeDrawing job={inputs} fuse={fuse} onPart={(label) => words.open(label)} onBoard={onBoard} />
      </div>
      <OtherSources />
      <Assumptions onCircuit={onCircuit} />
      {found.data && (
        <section className="mt-6" aria-label={SURVEY.checksSurvey}>
          <h2 className="font-semibold text-xl">{SURVEY.existingIntakeAdequate}</h2>
          <CheckList checks={found.data.intake.filter((c) => !ELSEWHERE.includes(c.id))} onTable={onTable} />
          {wrong.length > 0 && (
            <PlaceWays board={null} only={wrong} titles={new Map(found.data.intake.map((c) => [c.id, c.title]))} />
          )}
        </section>
      )}
      <div>
        <More
          title={SURVEY.otherDetailsIntake}
          note="who it is for, the note of the job, kind of premises, declared maximum Ze, how the earthing conductor is run"
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
      <p className="mt-8 max-w-prose border-hair border-t pt-3 text-faded">{SURVEY.measuringZeIpf}</p>
    </div>
  );
}

type Measured = "u0" | "ze" | "ipf" | "fuse_in" | "tails_csa" | "tails_length" | "earthing_csa" | "bonding_csa";

interface Part {
  /** The mark that stands against the word. */
  after?: string;
  supply: Supply;
  set: (fields: Change["fields"]) => void;
}

function SupplyNumber({
  after,
  name,
  label,
  unit,
  supply,
  set,
}: Part & { name: Measured; label: string; unit: string }) {
  const limits = useLimits(`supply.${name}`);
  const value = supply[name];
  const source = name in SOURCE_OF ? supply[SOURCE_OF[name as Sourced]] : null;
  const text =
    value === null
      ? `${unit === "Ω" ? "an impedance" : unit === "mm²" ? "a size" : unit === "m" ? "a length" : "a current"} not entered`
      : unit === "Ω"
        ? `${shortFigure(value)} Ω`
        : quantity(value, unit);
  return (
    <Word
      after={after}
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

function SourceWord({ after, name, supply, set }: Part & { name: Sourced }) {
  const key = SOURCE_OF[name];
  const notes = {
    measured: "measured here with an instrument",
    declared: "declared by the distributor (DNO)",
    assumed: "not measured or declared",
  };
  return (
    <Word after={after} label={`source of ${name}`} text={supply[key]} assumed={supply[key] === "assumed"}>
      {(e) => (
        <ComboEditor
          {...e}
          label={SURVEY.howKnown}
          options={containing(SOURCES.map((s) => ({ value: s, text: s, note: notes[s] })))}
          onSave={(source) => set({ [key]: source })}
        />
      )}
    </Word>
  );
}
