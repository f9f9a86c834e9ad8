import { useSyncExternalStore } from "react";
import { local, type Phase } from "../../engine/local";
import { Button } from "../../ui/controls";
import { WORKS_HERE } from "./words";

/** Whether this device works jobs out by itself, and whether it may. */
export function WorksHere() {
  const { phase, done } = useSyncExternalStore(local.subscribe, local.get);
  const told: Record<Phase, string> = {
    off: WORKS_HERE.off,
    asleep: WORKS_HERE.asleep,
    loading: `${WORKS_HERE.loading} ${Math.round(100 * done)} %`,
    ready: WORKS_HERE.ready,
    old: WORKS_HERE.old,
    failed: WORKS_HERE.failed,
  };
  const off = phase === "off";
  return (
    <section className="mt-8" aria-label={WORKS_HERE.head}>
      <h2 className="font-semibold text-xl">{WORKS_HERE.head}</h2>
      <p className="mt-1 max-w-prose text-faded">{WORKS_HERE.say}</p>
      <p className="mt-2" role="status" data-works-here={phase}>
        {told[phase]}
      </p>
      <p className="mt-2 flex gap-2">
        <Button onClick={() => local.turn(off)}>{off ? WORKS_HERE.turnOn : WORKS_HERE.turnOff}</Button>
        {(phase === "asleep" || phase === "failed") && (
          <Button onClick={() => void local.wake()}>{WORKS_HERE.loadNow}</Button>
        )}
      </p>
    </section>
  );
}
