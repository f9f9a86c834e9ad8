import { type ReactNode, useState, useSyncExternalStore } from "react";
import type { ClashAnswer } from "../api/types";
import { local } from "../engine/local";
import { useJob, useStore } from "../sync/job-context";
import type { Choice, Parked } from "../sync/state";
import { Button, Sheet } from "../ui/controls";
import { clockOf } from "../ui/time";
import { useLongAway } from "./long-away";
import { longAway, SAVE_TROUBLE, WHY } from "./words";

/** What stands in the way of saving, with the ways on. */
export function SaveTrouble({ signIn }: { signIn: (then: (person: string | null) => void) => ReactNode }) {
  const store = useStore();
  const { flow, parked, refused, said, keeps, unsent } = useJob();
  const { phase: works } = useSyncExternalStore(local.subscribe, local.get);
  const since = useLongAway();
  const away = since === null ? null : longAway(clockOf(new Date(since).toISOString()), unsent, keeps);
  return (
    <>
      {away && (
        <Strip>
          <span>
            <strong>{away.head}</strong> {away.text}
          </span>
        </Strip>
      )}
      {works === "old" && (
        <Strip>
          <span>{SAVE_TROUBLE.earlierRules}</span>
          <button type="button" className="word" onClick={() => location.reload()}>
            {SAVE_TROUBLE.reload}
          </button>
        </Strip>
      )}
      {!keeps && (
        <Strip>
          <span>
            <strong>{SAVE_TROUBLE.browserCannotKeep}</strong> {SAVE_TROUBLE.storageFullSwitched}
          </span>
        </Strip>
      )}
      {refused && (
        <Strip onUnderstood={store.understood}>
          <span>
            <strong>{SAVE_TROUBLE.notSaved}</strong>, {refused.field.replaceAll("_", " ").replace(".", " ")}:{" "}
            {refused.message}
          </span>
        </Strip>
      )}
      {said && (
        <Strip onUnderstood={store.understood}>
          <span>{said}</span>
        </Strip>
      )}
      {parked.length > 0 && <Aside parked={parked} />}
      {flow.is === "clash" && <ClashSheet key={flow.item} answer={flow.answer} />}
      <Sheet
        open={flow.is === "signed-out"}
        onOpenChange={() => undefined}
        title={SAVE_TROUBLE.signAgain}
        say={
          unsent > 0
            ? `You were signed out. Your ${unsent} unsent ${unsent === 1 ? "change is" : "changes are"} kept here and go out once you are back.`
            : SAVE_TROUBLE.wereSignedOut
        }
      >
        {signIn((person) => store.signedIn(person))}
      </Sheet>
    </>
  );
}

function Strip({ children, onUnderstood }: { children: ReactNode; onUnderstood?: () => void }) {
  return (
    <div role="alert" className="flex items-baseline justify-between gap-4 border-short border-b-2 bg-leaf px-5 py-2">
      {children}
      {onUnderstood && (
        <button type="button" className="word" onClick={onUnderstood}>
          OK
        </button>
      )}
    </div>
  );
}

/** Edits that were set aside: each can be tried again, taken out as a file, or let go. */
function Aside({ parked }: { parked: readonly Parked[] }) {
  const store = useStore();
  const [open, setOpen] = useState(false);
  const [sure, setSure] = useState<string | null>(null);
  const count = parked.length === 1 ? SAVE_TROUBLE.oneEdit : `${parked.length} edits were`;
  return (
    <>
      <Strip>
        <span>
          <strong>{count} not accepted.</strong> Nothing else depends on {parked.length === 1 ? "it" : "them"}.
        </span>
        <button type="button" className="word whitespace-nowrap" onClick={() => setOpen(true)}>
          show
        </button>
      </Strip>
      <Sheet open={open} onOpenChange={setOpen} title={SAVE_TROUBLE.notAccepted} say={SAVE_TROUBLE.notAcceptedServer}>
        <ul className="mt-3">
          {parked.map((p) => (
            <li key={p.item.id} data-parked className="border-hair border-t py-2">
              <p className="font-semibold">{actTold(p)}</p>
              <p className="text-faded">{p.why}</p>
              <p className="mt-1 flex flex-wrap gap-2">
                <Button onClick={() => store.retryParked(p.item.id)}>{SAVE_TROUBLE.tryAgain}</Button>
                <a
                  className="word self-center"
                  download="set-aside.json"
                  href={`data:application/json,${encodeURIComponent(JSON.stringify(p, null, 1))}`}
                >
                  {SAVE_TROUBLE.saveFile}
                </a>
                {sure === p.item.id ? (
                  <Button onClick={() => store.letGo(p.item.id)}>{SAVE_TROUBLE.discardGood}</Button>
                ) : (
                  <Button onClick={() => setSure(p.item.id)}>discard …</Button>
                )}
              </p>
            </li>
          ))}
        </ul>
        <div className="mt-4">
          <Button onClick={() => setOpen(false)}>close</Button>
        </div>
      </Sheet>
    </>
  );
}

const OPS = { set: "change", add: "add", remove: "remove", move: "move" } as const;

function actTold({ item: { act } }: Parked): string {
  if (act.is !== "changes") return "undo the last change";
  return act.changes
    .map((c) => {
      const fields = Object.entries(c.fields ?? {}).map(
        ([name, value]) => `${name.replaceAll("_", " ")} ${JSON.stringify(value)}`,
      );
      return `${OPS[c.op]} ${c.kind}${fields.length > 0 ? `: ${fields.join(", ")}` : ""}`;
    })
    .join("; ");
}

/** Both values, field by field, and the choice. Nothing has been overwritten. */
function ClashSheet({ answer }: { answer: ClashAnswer }) {
  const store = useStore();
  const [choices, setChoices] = useState<Choice[]>(() =>
    answer.clashes.map((p) => (p.why === "value" || p.why === "place" ? "mine" : "theirs")),
  );
  const pick = (i: number, choice: Choice) => setChoices(choices.map((c, j) => (j === i ? choice : c)));
  return (
    <Sheet
      open
      onOpenChange={() => undefined}
      title={SAVE_TROUBLE.someoneElseChanged}
      say={SAVE_TROUBLE.nothingHasBeen}
    >
      <ul className="mt-3">
        {answer.clashes.map((p, i) => (
          <li key={`${p.id} ${p.field} ${p.change}`} data-clash={p.field} className="border-hair border-t py-2">
            <fieldset>
              <legend className="font-semibold">
                {p.name || p.kind}
                {p.why === "value" ? `: ${p.label}` : ""}
              </legend>
              {p.why !== "value" && <p>{WHY[p.why]}</p>}
              {p.base_told && <p className="text-faded">it was {p.base_told}</p>}
              {p.why !== "gone" && (
                <label className="flex items-center gap-2 py-0.5">
                  <input type="radio" checked={choices[i] === "mine"} onChange={() => pick(i, "mine")} />
                  mine{p.why === "value" ? `: ${p.mine_told}` : p.why === "changed" ? ": remove it anyway" : ""}
                </label>
              )}
              <label className="flex items-center gap-2 py-0.5">
                <input type="radio" checked={choices[i] === "theirs"} onChange={() => pick(i, "theirs")} />
                {p.by || "theirs"}
                {p.at && `, ${clockOf(p.at)}`}
                {p.why === "value"
                  ? `: ${p.theirs_told}`
                  : p.why === "gone"
                    ? ": leave it removed"
                    : ": leave it as it is"}
              </label>
            </fieldset>
          </li>
        ))}
      </ul>
      <div className="mt-4">
        <Button strong onClick={() => store.resolve(choices)}>
          {SAVE_TROUBLE.saveThese}
        </Button>
      </div>
    </Sheet>
  );
}
