import { attempt, look, recallJob, sendBack, sendEdit, sendUndo, who } from "../api/client";
import type { Change } from "../api/types";
import type { Remote } from "./engine";

/** The server as the engine knows it. */
export const remote: Remote = {
  look,
  recall: recallJob,
  send(job, item, version, seen, focus, signal) {
    const [edit_id, epoch] = [item.id, item.epoch ?? ""];
    switch (item.act.is) {
      case "changes":
        return sendEdit(
          job,
          { edit_id, version, epoch, seen: [...seen], changes: item.act.changes as Change[], focus },
          signal,
        );
      case "undo":
        return sendUndo(job, { edit_id, epoch, again: item.act.again, focus }, signal);
      case "back":
        return sendBack(job, { edit_id, version, epoch, to: item.act.to, focus }, signal);
    }
  },
  attempt: (job, changes, version, focus, signal) => attempt(job, changes as Change[], version, focus, signal),
  who: async () => {
    const found = await who();
    return found.signed_in ? found.person : null;
  },
};
