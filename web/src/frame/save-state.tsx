import { useSyncExternalStore } from "react";
import { working } from "../api/client";
import { local } from "../engine/local";
import { useJob } from "../sync/job-context";
import { SAVE_STATE } from "./words";

/** The phases of saving as the page shows them. */
const PHASE = {
  idle: "saved",
  sending: "saving",
  resting: "away",
  asking: "saving",
  "signed-out": "signed-out",
  stranger: "stranger",
  clash: "clash",
  gone: "gone",
} as const;

export function usePhase() {
  const { flow, state, unsent } = useJob();
  if (!state && flow.is === "idle") return "loading" as const;
  // Another tab of this browser sends what waits here.
  return flow.is === "idle" && unsent > 0 ? ("saving" as const) : PHASE[flow.is];
}

/** How the work stands: saved, saving, kept here until the server is back. */
export function SaveState() {
  const phase = usePhase();
  const { unsent, flow, keeps } = useJob();
  const kept = `${unsent} ${unsent === 1 ? "change" : "changes"} ${keeps ? SAVE_STATE.keptHere : SAVE_STATE.inPageAlone}`;
  const apart = useSyncExternalStore(working.subscribe, working.get);
  const { phase: works, done } = useSyncExternalStore(local.subscribe, local.get);
  const getting = works === "loading" ? ` · ${SAVE_STATE.gettingReady}, ${Math.round(100 * done)} %` : "";
  const mark = works === "ready" ? ` · ${SAVE_STATE.workedOutHere}` : getting;
  const trouble = flow.is === "resting" && flow.why === "trouble";
  const words: Record<typeof phase, string> = {
    loading: "opening …",
    saved: "saved",
    saving: "saving …",
    // Beside the mark there is room for fewer words.
    away:
      mark && keeps && !trouble
        ? `no server: ${unsent > 0 ? `${unsent} ${unsent === 1 ? "change" : "changes"} kept here` : "trying again"}${mark}`
        : `server ${trouble ? "has a fault" : "not reached"}: ${unsent > 0 ? kept : "trying again"}${mark}`,
    clash: `changed by others: ${kept}`,
    "signed-out": unsent > 0 ? `signed out: ${kept}` : "signed out",
    stranger: `somebody else signed in: ${kept}`,
    gone: unsent > 0 ? `job not found: ${kept}` : "not to be found",
  };
  const busy = apart && (apart.before > 0 ? `working it out, ${apart.before} ahead of it …` : "working it out …");
  const calm = phase === "saved" || phase === "saving" || phase === "loading";
  return (
    <span
      role="status"
      data-phase={phase}
      data-works={works}
      className={calm ? "text-faded" : "font-semibold text-short"}
    >
      {calm && busy ? busy : words[phase]}
    </span>
  );
}
