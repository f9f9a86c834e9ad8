// The program in the runtime of a browser, as the page starts it: reads questions from a file, writes what they are answered with.
import { readFileSync, writeFileSync } from "node:fs";
import { pathToFileURL } from "node:url";

const [runtime, archive, asked, answered] = process.argv.slice(2);
const { loadPyodide } = await import(pathToFileURL(`${runtime}/pyodide.mjs`).href);
const python = await loadPyodide({ indexURL: `${runtime}/` });
python.unpackArchive(new Uint8Array(readFileSync(archive)), "zip", { extractDir: "/program" });
const local = python.runPython(`
import sys
sys.path.insert(0, "/program")
from mellow_span.answers.local import Local
Local()`);
const found = [];
for (const { lay, figures, asks } of JSON.parse(readFileSync(asked, "utf-8"))) {
  local.lay("j", JSON.stringify(lay));
  found.push([...figures.map(([changes, focus]) => local.figures("j", JSON.stringify(changes), focus)), ...asks.map((ask) => local.ask(JSON.stringify(ask)))]);
}
writeFileSync(answered, JSON.stringify(found));
