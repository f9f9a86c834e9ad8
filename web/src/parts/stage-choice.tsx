import { useId, useState } from "react";
import { useJob, useStore } from "../sync/job-context";
import { inputClass } from "../ui/editors";
import { remembered } from "../ui/remembered";

const WORDS = { stage: "Stage", choose: "choose the stage the work is done at" } as const;
const asItStands = (name: string) => `the whole job at ${name}`;

/**
 * The stage of a job that the work of a day is looked at, kept on this device for all views of it; empty for none in particular, and for a job
 * without stages, which shows nothing to choose. needed: it is asked each time, whatever was chosen before: what feeds a place on the day is at stake.
 */
export function useStageChoice(needed = false) {
  const store = useStore();
  const { inputs } = useJob();
  const id = useId();
  const key = `mellow-span/stage/${store.job}`;
  const [chosen, setChosen] = useState(() => (needed ? "" : (remembered.get(key) ?? "")));
  const stages = inputs?.stages ?? [];
  const last = stages.at(-1);
  const stage = stages.some((s) => s.id === chosen) ? chosen : "";
  const choose = (to: string) => {
    remembered.set(key, to || null);
    setChosen(to);
  };
  const choice = last && (
    <div className="no-print mt-3">
      <label htmlFor={id} className="block text-faded">
        {WORDS.stage}
      </label>
      <select
        id={id}
        className={`${inputClass} mt-1 min-h-11 max-w-md`}
        value={stage}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">{needed ? WORDS.choose : asItStands(last.name)}</option>
        {stages.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
            {s.date && `, ${s.date}`}
          </option>
        ))}
      </select>
    </div>
  );
  const name = stages.find((s) => s.id === stage)?.name ?? "";
  return { stage, name, choice: choice ?? null, lacking: needed && last !== undefined && stage === "" };
}
