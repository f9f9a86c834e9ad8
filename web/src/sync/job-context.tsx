import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { rules as rulesOf } from "../api/client";
import defaults from "../api/defaults.gen.json";
import type { Change, Circuit, Kind, Rules } from "../api/types";
import { local } from "../engine/local";
import { Opening } from "../ui/view";
import { Engine, type Snapshot } from "./engine";
import { Proposal, proposing } from "./proposal";
import { remote } from "./remote";
import { fromEarlier, shelfOf } from "./shelf";
import { tabsOf } from "./tabs";

interface JobValue {
  store: Engine;
  rules: Rules;
  /** What an apprentice has changed and not handed in; null for those who edit. */
  proposal: Proposal | null;
}

const Context = createContext<JobValue | null>(null);

interface Props {
  id: string;
  person: string;
  /** For tests: the rules, in place of those of the book that the job is under. */
  rules?: Rules;
  /** Whether the person proposes instead of editing. */
  proposes?: boolean;
  children: ReactNode;
  /** For tests: what stands in for the engine of this page. */
  make?: (id: string, person: string, proposal: Proposal | null) => Engine;
}

const engineFor = (id: string, person: string, proposal: Proposal | null) =>
  new Engine(
    id,
    person,
    proposal ? proposing(remote, proposal) : remote,
    shelfOf(person, id),
    tabsOf(`mellow-span/${person}/${id}`),
    undefined,
    () => fromEarlier(id),
    // What an apprentice proposes is worked out by the server, beside the job as it stands.
    proposal ? null : local,
  );

/** One job open for one person; when either changes, everything of the one before is closed. */
export function JobProvider({ id, person, rules, proposes = false, children, make = engineFor }: Props) {
  const client = useQueryClient();
  const [opened, setOpened] = useState<{ engine: Engine; proposal: Proposal | null } | null>(null);
  useEffect(() => {
    const proposal = proposes ? new Proposal(person, id) : null;
    const engine = make(id, person, proposal);
    // Another member signed in at this browser: the page starts anew for them, and sends nothing of the first.
    engine.onStranger = () => void client.invalidateQueries({ queryKey: ["who"] });
    if (proposal) {
      proposal.onElsewhere = engine.reload;
      proposal.onAside = engine.setAside;
    }
    setOpened({ engine, proposal });
    void engine.open();
    return () => {
      engine.close();
      proposal?.close();
    };
  }, [id, person, client, make, proposes]);
  return (
    opened && (
      <InBook store={opened.engine} proposal={opened.proposal} given={rules}>
        {children}
      </InBook>
    )
  );
}

interface InBookProps {
  store: Engine;
  proposal: Proposal | null;
  given: Rules | undefined;
  children: ReactNode;
}

/** What the inputs may choose from is that of the book the job is under, also when it is put under another. */
function InBook({ store, proposal, given, children }: InBookProps) {
  const book = useSyncExternalStore(store.subscribe, store.get).inputs?.ruleset ?? defaults.book;
  const found = useQuery({
    queryKey: ["rules", book],
    queryFn: () => rulesOf(book),
    enabled: given === undefined,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before) => before,
  });
  const rules = given ?? found.data;
  const value = useMemo(() => rules && { store, rules, proposal }, [store, rules, proposal]);
  if (value) return <Context value={value}>{children}</Context>;
  if (found.error) return <Opening trouble={found.error.message} again={() => void found.refetch()} />;
  return <p className="p-8 text-faded">Opening the rules …</p>;
}

function useValue(): JobValue {
  const value = useContext(Context);
  if (!value) throw new Error("outside a job");
  return value;
}

export const useStore = () => useValue().store;
export const useRules = () => useValue().rules;
export const useProposal = () => useValue().proposal;

export function useJob(): Snapshot {
  const { store } = useValue();
  return useSyncExternalStore(store.subscribe, store.get);
}

export function useCircuit(id: string): Circuit | undefined {
  return useJob().inputs?.circuits.find((c) => c.id === id);
}

/** Make a change, leaving out what does not apply. */
export function change(op: Change["op"], kind: Kind, id: string, rest: Partial<Change> = {}): Change {
  return { op, kind, id, fields: {}, ...rest };
}

export const setFields = (kind: Kind, id: string, fields: Change["fields"]) => change("set", kind, id, { fields });
export const NOBODY = "00000000-0000-0000-0000-000000000000";

/** The range a field accepts, as the server gives it: "device.rating" and so on. */
export function useLimits(field: string) {
  const found = useRules().fields.find((f) => f.field === field);
  return { lo: found?.lo ?? null, hi: found?.hi ?? null, unit: found?.unit ?? "", meaning: found?.meaning ?? "" };
}
