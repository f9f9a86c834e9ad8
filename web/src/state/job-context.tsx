import { createContext, type ReactNode, useContext, useEffect, useMemo, useSyncExternalStore } from "react";
import type { Change, Circuit, Kind, Rules } from "../api/types";
import { JobStore, type Snapshot } from "./job-store";

interface JobValue {
  store: JobStore;
  rules: Rules;
}

const Context = createContext<JobValue | null>(null);

export function JobProvider({ id, rules, children }: { id: string; rules: Rules; children: ReactNode }) {
  const store = useMemo(() => new JobStore(id), [id]);
  useEffect(() => () => store.close(), [store]);
  const value = useMemo(() => ({ store, rules }), [store, rules]);
  return <Context value={value}>{children}</Context>;
}

function useValue(): JobValue {
  const value = useContext(Context);
  if (!value) throw new Error("outside a job");
  return value;
}

export const useStore = () => useValue().store;
export const useRules = () => useValue().rules;

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
