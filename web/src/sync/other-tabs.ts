import { look } from "./looking";
import { inOrder, type Step, union } from "./queue";
import type { Note, State } from "./state";

// What another tab of this browser tells.

export function elsewhere(state: State, note: Note): Step {
  switch (note.is) {
    case "kept":
      return [
        {
          ...state,
          queue: inOrder(
            union(
              state.queue.filter((i) => i.id !== note.item.id),
              [note.item],
              (i) => i.id,
            ),
          ),
        },
        [],
      ];
    case "forgot": {
      const queue = state.queue.filter((i) => i.id !== note.id);
      const known = note.landed ? union(state.landed, [note.landed], (l) => l.seq) : state.landed;
      const next: State = { ...state, queue, landed: queue.length === 0 ? [] : known };
      return note.landed ? look(next, true) : [next, []];
    }
    case "parked":
      return [{ ...state, parked: union(state.parked, [note.parked], (p) => p.item.id) }, []];
    case "unparked":
      return [{ ...state, parked: state.parked.filter((p) => p.item.id !== note.id) }, []];
  }
}
