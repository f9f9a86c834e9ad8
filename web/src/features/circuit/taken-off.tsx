import type { Circuit } from "../../api/types";
import { setFields, useLimits, useStore } from "../../sync/job-context";
import { ComboEditor, containing, NumberEditor } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { Word } from "../../ui/word";
import type { Point } from "./strip";
import { SPUR, TAKEN_OFF } from "./words";

/** Whether loads stand apart along the run, so that where each is taken off says something. */
const apart = (circuit: Circuit) =>
  circuit.loads.length > 1 || circuit.loads.some((l) => l.at !== null || l.spur !== "no");

/** The loads of a circuit as they stand on its strip; a single one at the far point needs no peg. */
export const pointsOf = (circuit: Circuit): Point[] =>
  apart(circuit)
    ? circuit.loads.map((load) => ({
        id: load.id,
        name: load.name || "a load",
        at: load.at,
        spur: load.spur !== "no",
      }))
    : [];

/** Where along the run each load is taken off, as words: what the pegs on the strip say, for the keyboard. */
export function TakenOff({ circuit }: { circuit: Circuit }) {
  const store = useStore();
  const limits = useLimits("load.at");
  if (!apart(circuit)) return null;
  return (
    <Sentence id="points">
      <p data-sentence className="mt-2 leading-[1.7]">
        {TAKEN_OFF.pointsAlongRun}
        {circuit.loads.map((load, i) => (
          <span key={load.id}>
            {i > 0 && ", "}
            {load.name || "a load"}{" "}
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
