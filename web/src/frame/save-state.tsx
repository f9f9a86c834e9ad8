import type { ReactNode } from "react";
import { useJob, useStore } from "../state/job-context";
import { Button, Sheet } from "../ui/controls";

/** How the work stands: saved, saving, kept here until the server is back. */
export function SaveState() {
  const { phase, unsent } = useJob();
  const kept = `${unsent} ${unsent === 1 ? "change" : "changes"} kept in this browser`;
  const words: Record<typeof phase.is, string> = {
    loading: "opening …",
    saved: "saved",
    saving: "saving …",
    away: unsent > 0 ? `server away: ${kept}` : "server away: trying again",
    stale: `changed elsewhere: ${kept}`,
    "signed-out": unsent > 0 ? `signed out: ${kept}` : "signed out",
    gone: "not to be found",
  };
  const calm = phase.is === "saved" || phase.is === "saving" || phase.is === "loading";
  return (
    <span role="status" data-phase={phase.is} className={calm ? "text-faded" : "font-semibold text-short"}>
      {words[phase.is]}
    </span>
  );
}

/** What stands in the way of saving, with the ways on. */
export function SaveTrouble({ signIn }: { signIn: (again: () => void) => ReactNode }) {
  const store = useStore();
  const { phase, unsent, refused } = useJob();
  return (
    <>
      {refused && (
        <div
          role="alert"
          className="flex items-baseline justify-between gap-4 border-short border-b-2 bg-leaf px-5 py-2"
        >
          <span>
            <strong>Not saved</strong>, {refused.field.replaceAll("_", " ").replace(".", " ")}: {refused.message}
          </span>
          <button type="button" className="word" onClick={store.dismissRefusal}>
            understood
          </button>
        </div>
      )}
      <Sheet
        open={phase.is === "stale"}
        onOpenChange={() => undefined}
        title="This job was changed elsewhere meanwhile"
        say={`Your ${unsent} unsent ${unsent === 1 ? "change is" : "changes are"} kept. Nothing has been overwritten.`}
      >
        <div className="mt-4 flex flex-wrap gap-2">
          <Button strong onClick={store.keepMine}>
            lay mine over what is there now
          </Button>
          <Button onClick={store.takeTheirs}>let mine go</Button>
        </div>
      </Sheet>
      <Sheet
        open={phase.is === "signed-out"}
        onOpenChange={() => undefined}
        title="Sign in again"
        say="You were signed out. What you typed is kept here and goes out once you are back."
      >
        {signIn(() => store.again())}
      </Sheet>
    </>
  );
}
