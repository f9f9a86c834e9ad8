import type { Ends } from "../../api/site";

/** Terminations that are made the same way, and what to test of them beside the tests of all. */
export interface Alike {
  of: readonly Ends[];
  tests: readonly string[];
}

/**
 * The tests that follow every termination, and the rest grouped by what is alike: same cores, gland, ends and further tests, in the order they
 * came. What exists already stands alone: its colours are what somebody saw there.
 */
export function alike(all: readonly Ends[]): { every: string[]; groups: Alike[] } {
  const first = all[0]?.tests ?? [];
  const every = all.length > 1 ? first.filter((test) => all.every((e) => e.tests.includes(test))) : [];
  const groups = new Map<string, { of: Ends[]; tests: string[] }>();
  for (const one of all) {
    const tests = one.tests.filter((test) => !every.includes(test));
    const { cores, spare, gland, doubtful, fly_lead, ends } = one;
    const how = JSON.stringify([cores, spare, gland, doubtful, fly_lead, ends, tests]);
    const key = one.existing ? one.circuit : how;
    const there = groups.get(key);
    if (there) there.of.push(one);
    else groups.set(key, { of: [one], tests });
  }
  return { every, groups: [...groups.values()] };
}
