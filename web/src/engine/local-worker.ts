import { expose } from "comlink";

/**
 * The program of the server, run in this browser beside the page: rules, tables and questions are the same files. It gets data and gives data, both as
 * text; the only code it runs comes from the address this page comes from.
 */

interface Local {
  lay(job: string, text: string): void;
  land(job: string, changes: string, version: number): void;
  log(job: string, text: string): void;
  figures(job: string, changes: string, focus: string): string;
  ask(text: string): string;
}
interface Runtime {
  unpackArchive(archive: Uint8Array, format: string, options: { extractDir: string }): void;
  runPython(code: string): unknown;
}

const HOME = "/program";
let local: Local | null = null;

async function fetched(address: string): Promise<Uint8Array> {
  const answer = await fetch(address, { credentials: "same-origin" });
  if (!answer.ok) throw new Error(`${address} answered ${answer.status}`);
  return new Uint8Array(await answer.arrayBuffer());
}

const worker = {
  /** Start the runtime that lies at an address, and the program of an archive in it. step: told as each part is there. */
  async start(runtime: string, archive: string, step: (done: number) => void): Promise<void> {
    const [{ loadPyodide }, packed] = await Promise.all([
      import(/* @vite-ignore */ `${runtime}pyodide.mjs`) as Promise<{ loadPyodide(o: object): Promise<Runtime> }>,
      fetched(archive),
    ]);
    step(1);
    const python = await loadPyodide({ indexURL: runtime });
    step(2);
    python.unpackArchive(packed, "zip", { extractDir: HOME });
    local = python.runPython(`
import sys
sys.path.insert(0, "${HOME}")
from mellow_span.answers.local import Local
Local()`) as Local;
    step(3);
  },
  lay: (job: string, text: string) => local?.lay(job, text),
  land: (job: string, changes: string, version: number) => local?.land(job, changes, version),
  log: (job: string, text: string) => local?.log(job, text),
  figures: (job: string, changes: string, focus: string) => local?.figures(job, changes, focus) ?? null,
  ask: (text: string) => local?.ask(text) ?? null,
};
export type LocalWorker = typeof worker;

expose(worker);
