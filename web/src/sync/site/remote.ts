import { writeAllDown, writeDown } from "../../api/site";
import { remote } from "../remote";
import type { SiteRemote } from "./log";

/** The server as the log of one job knows it. landed: resolves once the views show what was sent. */
export const siteRemote = (job: string, landed: () => Promise<void>): SiteRemote => ({
  send: (entry) => writeDown(job, entry),
  sendAll: (entries) => writeAllDown(job, entries),
  who: remote.who,
  landed,
});
