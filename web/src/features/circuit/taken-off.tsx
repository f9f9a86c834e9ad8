import type { Circuit, Load, Profile } from "../../api/types";
import { setFields, useLimits, useStore } from "../../sync/job-context";
import { endName, isPlain } from "../../sync/legs";
import { ComboEditor, containing, NumberEditor } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { Word } from "../../ui/word";
import type { Point } from "./strip";
import { SPUR, TAKEN_OFF } from "./words";

/** Whether loads stand apart along the run, so that where each is taken off says something. */
const apart = (circuit: Circuit) =>
  circuit.loads.length > 1 || circuit.loads.some((l) => l.at !== null || l.spur !== "no");

/** The loads of a circuit as they stand on its strip; a single one at the far point needs no peg. profile: the path that is drawn. */
export function pointsOf(circuit: Circuit, profile: Profile | null): Point[] {
  if (isPlain(circuit.run.spans, circuit.loads))
    return apart(circuit) ? circuit.loads.map((load) => point(load, load.at)) : [];
  const own = profile?.own_from ?? 0;
  return circuit.loads.flatMap((load) => {
    const stretch = profile?.stretches.find((s) => s.span === load.span);
    return stretch ? [{ ...point(load, stretch.end - own), fixed: true }] : [];
  });
}

const point = (load: Load, at: number | null): Point => ({
  id: load.id,
  name: load.name || "a load",
  at,
  spur: load.spur !== "no",
});

/** Where along the run each load is taken off, as words: what the pegs on the strip say, for the keyboard. */
export function TakenOff({ circuit }: { circuit: Circuit }) {
  const store = useStore();
  const limits = useLimits("load.at");
  const spans = circuit.run.spans;
  const branched = !isPlain(spans, circuit.loads);
  if (!branched && !apart(circuit)) return null;
  return (
    <Sentence id="points">
      <p data-sentence className="mt-2 leading-[1.7]">
        {TAKEN_OFF.pointsAlongRun}
        {circuit.loads.map((load, i) => (
          <span key={load.id}>
            {i > 0 && ", "}
            {load.name || "a load"} {branched && <Stands circuit={circuit} load={load} />}
            {!branched && (
              <Word
                label={`where ${load.name || "a load"} is taken off`}
                text={load.at === null ? "at the far end" : `at ${quantity(load.at, "m")}`}
              >
                {(e) => (
                  <NumberEditor
                    {...e}
                    label={TAKEN_OFF.metresBoardBlank}
                    value={load.at}
                    limits={limits}
                    optional
                    onSave={(at) => store.edit([setFields("load", load.id, { at })])}
                  />
                )}
              </Word>
            )}
            {circuit.shape === "ring" && (
              <>
                {" "}
                <Word label={`how ${load.name || "a load"} is fed`} text={SPUR[load.spur]}>
                  {(e) => (
                    <ComboEditor
                      {...e}
                      label={TAKEN_OFF.ringItselfSpur}
                      options={containing(
                        (["no", "fused", "unfused"] as const).map((s) => ({ value: s, text: SPUR[s] })),
                      )}
                      onSave={(spur) => store.edit([setFields("load", load.id, { spur })])}
                    />
                  )}
                </Word>
              </>
            )}
          </span>
        ))}
        .
      </p>
    </Sentence>
  );
}

/** Where in a run that branches a load stands: at the end of one of its spans, or nowhere yet. */
function Stands({ circuit, load }: { circuit: Circuit; load: Load }) {
  const store = useStore();
  const spans = circuit.run.spans;
  const text = load.span
    ? `at ${endName(spans, load.span)}`
    : load.at === null
      ? TAKEN_OFF.everyEnd
      : `${quantity(load.at, "m")} ${TAKEN_OFF.mainWay}`;
  return (
    <Word label={`where ${load.name || "a load"} stands`} text={text} wide>
      {(e) => (
        <ComboEditor
          {...e}
          label={TAKEN_OFF.whereStands}
          options={containing([
            { value: null as string | null, text: TAKEN_OFF.everyEnd, note: TAKEN_OFF.notPlaced },
            ...spans.map((s) => ({ value: s.id as string | null, text: endName(spans, s.id) })),
          ])}
          onSave={(span) => store.edit([setFields("load", load.id, { span, at: null })])}
        />
      )}
    </Word>
  );
}
