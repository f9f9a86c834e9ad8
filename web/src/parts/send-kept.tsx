import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { attended, ofJob, SiteLog } from "../sync/site/log";
import { siteRemote } from "../sync/site/remote";
import { siteWaiting } from "../sync/site/shelf";
import { askAnew } from "./ask-anew";
import { useWho } from "./person";

const EVERY_MS = 30_000;
const SOON_MS = 3000;

/** Sends what waits in this browser from any job's site log, whichever page is open: after a sign-in nobody has to go anywhere for it. */
export function SendKept() {
  const client = useQueryClient();
  const person = useWho().data?.person ?? "";
  useEffect(() => {
    if (!person) return;
    const logs = new Map<string, SiteLog>();
    const look = async () => {
      for (const job of (await siteWaiting(person)).keys())
        if (!logs.has(job) && !attended.has(ofJob(person, job)))
          logs.set(
            job,
            new SiteLog(
              person,
              job,
              siteRemote(job, () => askAnew(client, ["site", job], true)),
            ),
          );
      for (const [job, log] of logs)
        if (
          attended.has(ofJob(person, job)) ||
          (log.get().waiting.length === 0 && !(await siteWaiting(person)).has(job))
        ) {
          log.close();
          logs.delete(job);
        }
    };
    // A page of the job itself comes first.
    const soon = setTimeout(() => void look(), SOON_MS);
    const timer = setInterval(() => void look(), EVERY_MS);
    return () => {
      clearTimeout(soon);
      clearInterval(timer);
      for (const log of logs.values()) log.close();
    };
  }, [person, client]);
  return null;
}
