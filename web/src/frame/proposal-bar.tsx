import { useQueryClient } from "@tanstack/react-query";
import { useState, useSyncExternalStore } from "react";
import { addCopy } from "../api/client";
import { askAnew } from "../parts/ask-anew";
import { useProposal, useStore } from "../sync/job-context";
import type { Proposal } from "../sync/proposal";
import { Ask } from "../ui/ask";
import { Button } from "../ui/controls";
import { inputClass } from "../ui/editors";
import { useOnce } from "../ui/once";
import { PROPOSAL_BAR } from "./words";

/** For somebody who proposes: what they have changed so far, and how it is submitted. */
export function ProposalBar() {
  const proposal = useProposal();
  return proposal && <Bar proposal={proposal} />;
}

function Bar({ proposal }: { proposal: Proposal }) {
  const store = useStore();
  const client = useQueryClient();
  const { steps, keeps } = useSyncExternalStore(proposal.subscribe, proposal.get);
  const [name, setName] = useState<string | null>(null);
  const [leaving, setLeaving] = useState(false);
  const [said, setSaid] = useState("");
  const [why, setWhy] = useState("");
  const count = steps.flatMap((s) => s.changes).length;
  const clear = () => {
    void proposal.clear().then(store.reload);
    setName(null);
    setLeaving(false);
  };
  const once = useOnce();
  const handIn = async () => {
    setWhy("");
    try {
      await addCopy(store.job, {
        id: crypto.randomUUID(),
        name: name?.trim() || "Proposal",
        changes: proposal.changes(),
      });
      clear();
      setSaid(PROPOSAL_BAR.submittedDesignerWill);
      void askAnew(client, ["copies", store.job]);
    } catch (error) {
      setWhy(error instanceof Error ? error.message : "no answer");
    }
  };
  return (
    <div
      role="region"
      aria-label={PROPOSAL_BAR.proposal}
      className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-hair border-b bg-leaf px-5 py-2"
    >
      <span className="flex-1">
        <strong>{PROPOSAL_BAR.proposingChanges}</strong>{" "}
        {count === 0
          ? said || PROPOSAL_BAR.changeWhatLike
          : `${count} ${count === 1 ? "change" : "changes"} so far, ${keeps ? PROPOSAL_BAR.keptHere : PROPOSAL_BAR.keptNowhere}`}
      </span>
      {count > 0 && name === null && (
        <>
          <Button strong onClick={() => setName("")}>
            submit …
          </Button>
          <Button onClick={() => setLeaving(true)}>discard</Button>
        </>
      )}
      {count > 0 && name !== null && (
        <form
          className="flex flex-wrap gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void once("hand in", handIn);
          }}
        >
          <input
            // biome-ignore lint/a11y/noAutofocus: asked for by the button just pressed
            autoFocus
            className={`${inputClass} w-64`}
            aria-label={PROPOSAL_BAR.whatProposalCalled}
            placeholder={PROPOSAL_BAR.what}
            maxLength={200}
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && setName(null)}
          />
          <Button strong type="submit">
            submit
          </Button>
        </form>
      )}
      {why && (
        <span role="alert" className="basis-full text-short">
          {why}
        </span>
      )}
      <Ask
        open={leaving}
        title={PROPOSAL_BAR.discardProposal}
        say={`${count === 1 ? PROPOSAL_BAR.change : `Its ${count} changes are`} lost; the job stays as it was.`}
        yes="discard it"
        onYes={clear}
        onClose={() => setLeaving(false)}
      />
    </div>
  );
}
