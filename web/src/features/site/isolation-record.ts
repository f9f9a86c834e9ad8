import type { IsolationDone, IsolationRecord } from "../../api/site";
import type { SiteEntry } from "../../sync/site/state";

/** The answer that ends a record: another source is there and is not isolated. */
export const NOT_CLEAR = "not isolated";
type Act = IsolationDone["step"];

/** A step as it is kept with the beginning of a record: key|needs|asks|text. */
function unpacked(text: string): Act {
  const [key = "", needs = "", asks = "", ...rest] = text.split("|");
  return {
    key,
    needs: needs.replace("*local", "") as Act["needs"],
    asks,
    text: rest.join("|"),
    local: needs.endsWith("*local"),
  };
}

const texts = (value: unknown) => (Array.isArray(value) ? value.map(String) : []);
const fresh = (step: string): IsolationDone => ({ step: unpacked(step), value: "", local: "", by: "", at: "" });

/**
 * Records with what was written down here and is not sent yet laid over them, by the same rules as on the server: a step is done once, the next one is
 * the first that is not, and dead is only what has every step.
 */
export function laidOver(
  records: readonly IsolationRecord[],
  waiting: readonly SiteEntry[],
  name: string,
): IsolationRecord[] {
  const mine = waiting.filter((e) => e.kind === "isolation");
  const begun = mine
    .filter((e) => e.data.step === "begin" && !records.some((r) => r.id === e.data.record))
    .map(
      (e): IsolationRecord => ({
        id: String(e.data.record),
        title: String(e.data.title),
        kind: String(e.data.kind),
        place: String(e.data.id),
        by: name,
        at: e.at,
        state: "open",
        steps: texts(e.data.steps).map(fresh),
        release: texts(e.data.release).map(fresh),
        next: "",
        why: "",
        proved: "",
      }),
    );
  return [...begun.reverse(), ...records].map((record) =>
    settled(
      record,
      mine.filter((e) => e.data.record === record.id && e.data.step !== "begin"),
      name,
    ),
  );
}

function settled(record: IsolationRecord, waiting: readonly SiteEntry[], name: string): IsolationRecord {
  const lay = (done: IsolationDone): IsolationDone => {
    const entry = done.by ? undefined : waiting.find((e) => e.data.step === done.step.key);
    return entry
      ? {
          ...done,
          value: String(entry.data.value ?? ""),
          local: String(entry.data.local ?? ""),
          by: name,
          at: entry.at,
        }
      : done;
  };
  const steps = record.steps.map(lay);
  const release = record.release.map(lay);
  const over = { ...record, steps, release };
  const up = waiting.find((e) => e.data.step === "given_up");
  if (record.state === "given_up" || up)
    return { ...over, state: "given_up", next: "", why: record.why || String(up?.data.value ?? "") };
  if (steps.some((d) => d.step.needs === "dead" && d.value === "live")) return { ...over, state: "live", next: "" };
  const source = steps.find((d) => d.step.needs === "clear" && d.value === NOT_CLEAR);
  if (source) return { ...over, state: "live", next: "", why: `${source.step.text} Yes, and not isolated.` };
  const left = steps.find((d) => !d.by);
  if (left) return { ...over, state: "open", next: left.step.key };
  const undone = release.find((d) => !d.by);
  return {
    ...over,
    state: undone ? "dead" : "released",
    next: undone?.step.key ?? "",
    proved: steps.at(-1)?.at ?? "",
  };
}
