import { knew, LONGEST_REST_MS, stopped } from "../trouble";
import type { Effect, Event, Kept, Lies, Note, Refused, SiteEntry, State, Waiting } from "./state";

type Step = [State, Effect[]];
const AT_ONCE = 50;

/**
 * How entries of the site log travel: they go out in order, photos behind the rest. What is refused stays, with the reason, until somebody decides;
 * one that cannot be sent holds up nothing but what builds on it; what is sent stands over the views until they show it.
 */
export function step(state: State, event: Event): Step {
  const [next, effects] = take(state, event);
  return onward(next, effects);
}

function take(state: State, event: Event): Step {
  switch (event.is) {
    case "shelved":
      return shelved(state, event);
    case "shelf-failed":
      return [state, []];
    case "elected":
      return [{ ...state, sender: true }, []];
    case "unseated":
      return [{ ...state, sender: false }, []];
    case "added":
      return typed(state, event.entry);
    case "kept":
      return [changed(state, [event.id], { lies: event.lies }), []];
    case "answered":
      return answered(state, event.ids, event.whys);
    case "failed":
      return failed(state, event);
    case "shown":
      return [{ ...without(state, event.ids), showing: [] }, []];
    case "show-failed": {
      const seen: State = { ...state, showing: [] };
      return seen.flow.is === "idle" ? stopped(seen, "away", "", event.now) : [seen, []];
    }
    case "whole":
      return [{ ...state, refused: state.refused.map((r) => (same(r, event.refused) ? event.refused : r)) }, []];
    case "again": {
      const one = state.refused.find((r) => r.entry.id === event.id);
      return one ? typed(state, one.entry) : [state, []];
    }
    case "discard":
      return [
        { ...state, refused: state.refused.filter((r) => r.entry.id !== event.id) },
        [{ do: "forget", id: event.id, lies: "beside", sent: false }],
      ];
    case "wake":
      return wake(state);
    case "knew": {
      const [next, effects] = knew(state, event.person, reading);
      // Nobody presses a button for this work: whether somebody has signed in is asked again by itself.
      return next.flow.is === "signed-out"
        ? [next, [...effects, { do: "wake", after: LONGEST_REST_MS }]]
        : [next, effects];
    }
    case "who-failed":
      return state.flow.is === "asking" ? stopped(state, "away", "", event.now) : [state, []];
    case "elsewhere":
      return elsewhere(state, event.note);
  }
}

/** Send what can be sent; once nothing is left to send, have the views asked anew, and come back to what was held up. */
function onward(state: State, effects: Effect[]): Step {
  if (state.flow.is !== "idle") return [state, effects];
  const entries = state.sender ? due(state) : [];
  if (entries.length > 0) {
    const ids = entries.map((e) => e.id);
    return [{ ...state, flow: { is: "sending", ids } }, [...effects, { do: "send", entries }]];
  }
  let next = state;
  const seen = state.waiting.filter((w) => w.sent).map((w) => w.entry.id);
  if (seen.length > 0 && state.showing.length === 0) {
    next = { ...next, showing: seen };
    effects.push({ do: "show", ids: seen });
  }
  if (!state.sender || !state.waiting.some((w) => w.held)) return [next, effects];
  const [rests, wakes] = stopped(next, "trouble", "", 0);
  return [rests, [...effects, ...wakes]];
}

/** What an entry builds on: the steps of one record of isolation go in order, or not at all. */
const chain = (e: SiteEntry) => (e.kind === "isolation" ? `record ${e.data.record}` : "");
const isPhoto = (w: Waiting) => w.entry.kind === "photo";

/** What goes next: words together, a photo by itself behind them. */
function due(state: State): SiteEntry[] {
  const stuck = new Set(
    state.waiting.filter((w) => !w.sent && (w.held || w.lies === "keeping")).map((w) => chain(w.entry)),
  );
  stuck.delete("");
  const all = state.waiting.filter((w) => !w.sent && !w.held && w.lies !== "keeping" && !stuck.has(chain(w.entry)));
  const words = all.filter((w) => !isPhoto(w)).slice(0, state.together ? AT_ONCE : 1);
  return (words.length > 0 ? words : all.slice(0, 1)).map((w) => w.entry);
}

const idle = (state: State): State => ({ ...state, flow: { is: "idle" } });
const same = (one: Refused, two: Refused) => one.entry.id === two.entry.id;
const changed = (state: State, ids: readonly string[], how: Partial<Waiting>): State => ({
  ...state,
  waiting: state.waiting.map((w) => (ids.includes(w.entry.id) ? { ...w, ...how } : w)),
});
const without = (state: State, ids: readonly string[]): State => ({
  ...state,
  waiting: state.waiting.filter((w) => !ids.includes(w.entry.id)),
});

const put = (state: State, entry: SiteEntry, lies: Lies, at: number): State => ({
  ...state,
  waiting: state.waiting.toSpliced(at, 0, { entry, lies, sent: false, held: false }),
});

/** Written here, or sent again: behind all that waits, whatever the clock says. */
function typed(state: State, entry: SiteEntry): Step {
  const fresh = without({ ...state, refused: state.refused.filter((r) => r.entry.id !== entry.id) }, [entry.id]);
  return [put(fresh, entry, "keeping", fresh.waiting.length), [{ do: "keep", entry }]];
}

/** Found on the shelf or told by another tab: at its place by the clock on site. Nothing where it is known. */
function found(state: State, entry: SiteEntry, lies: Lies): State {
  if (state.waiting.some((w) => w.entry.id === entry.id)) return state;
  const later = state.waiting.findIndex((w) => w.entry.at > entry.at);
  return put(state, entry, lies, later < 0 ? state.waiting.length : later);
}

/** Look at the shelf before anything is sent: another window may have sent it meanwhile, or the browser thrown it away. */
function reading(state: State): Step {
  if (state.flow.is !== "idle") return [state, []];
  const held = state.waiting.filter((w) => w.held).map((w) => w.entry.id);
  const ids = state.waiting.filter((w) => w.lies === "shelf" && !w.sent).map((w) => w.entry.id);
  const next = changed({ ...state, together: true }, held, { held: false });
  return [{ ...next, flow: { is: "reading", ids } }, [{ do: "read" }]];
}

/** What is on the shelf, beside what this page itself knows. */
function shelved(state: State, { waiting, beside, refused, mark }: Kept): Step {
  const judged = state.flow.is === "reading" ? state.flow.ids : [];
  const told = new Set(state.refused.map((r) => r.entry.id));
  let next = state.flow.is === "reading" ? idle(state) : state;
  // One that was refused stays so, whether or not the shelf could take the reason.
  for (const [entries, lies] of [
    [waiting ?? [], "shelf"],
    [beside, "beside"],
  ] as const)
    for (const entry of entries) if (!told.has(entry.id)) next = found(next, entry, lies);
  // A shelf that cannot be read says nothing about what is on it.
  if (!waiting) return [next, []];
  const there = new Set(waiting.map((e) => e.id));
  const missing = judged.filter((id) => !there.has(id));
  next = { ...next, mark };
  if (state.mark && mark !== state.mark) {
    // The browser threw it away and began anew: what this page still knows is kept again.
    const lost = next.waiting.filter((w) => missing.includes(w.entry.id));
    const keeps = lost.map((w): Effect => ({ do: "keep", entry: w.entry }));
    const refuses = next.refused.map((one): Effect => ({ do: "refuse", refused: one, lies: "shelf" }));
    return [changed(next, missing, { lies: "keeping" }), [...keeps, ...refuses]];
  }
  // Gone from the shelf, or there as not accepted: either way another window has told what became of it.
  const ids = refused.map((r) => r.entry.id);
  const all = [...next.refused.filter((r) => !ids.includes(r.entry.id)), ...refused];
  return [changed(without({ ...next, refused: all }, ids), missing, { sent: true }), []];
}

function answered(state: State, ids: readonly string[], whys: readonly string[]): Step {
  let next: State = { ...idle(state), rests: 0, renewed: false };
  const effects: Effect[] = [];
  for (const [k, id] of ids.entries()) {
    const one = next.waiting.find((w) => w.entry.id === id);
    if (!one) continue;
    const why = whys[k];
    if (why) {
      const refused = { entry: one.entry, why };
      next = without({ ...next, refused: [...next.refused, refused] }, [id]);
      effects.push({ do: "refuse", refused, lies: one.lies });
    } else {
      next = changed(next, [id], { sent: true });
      effects.push({ do: "forget", id, lies: one.lies, sent: true });
    }
  }
  return [next, effects];
}

function failed(state: State, { ids, failure, why, now }: Event & { is: "failed" }): Step {
  if (failure === "away" || failure === "denied") return stopped(state, failure, why, now);
  // One of them the server cannot even read, or fails over: then each goes for itself.
  if (ids.length > 1 || failure === "unread") return [{ ...idle(state), together: false }, []];
  if (failure === "gone") return answered(state, ids, [why]);
  return [changed(idle(state), ids, { held: true }), []];
}

function wake(state: State): Step {
  if (state.flow.is === "signed-out") return [{ ...state, flow: { is: "asking" } }, [{ do: "who" }]];
  return state.flow.is === "resting" ? reading(idle(state)) : [state, []];
}

/** What another tab of this browser tells. */
function elsewhere(state: State, note: Note): Step {
  switch (note.is) {
    case "kept": {
      const open: State = { ...state, refused: state.refused.filter((r) => r.entry.id !== note.entry.id) };
      return [found(open, note.entry, note.lies === "nowhere" ? "elsewhere" : note.lies), []];
    }
    case "gone": {
      const refused = state.refused.filter((r) => r.entry.id !== note.id);
      const next: State = { ...state, refused };
      return [note.sent ? changed(next, [note.id], { sent: true }) : without(next, [note.id]), []];
    }
    case "refused": {
      const refused = [...state.refused.filter((r) => !same(r, note.refused)), note.refused];
      return [without({ ...state, refused }, [note.refused.entry.id]), []];
    }
    default:
      // An earlier version of this page, which says no more than that something changed.
      return reading(state);
  }
}
