import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import { unzipSync, zipSync } from "fflate";
import type { Plugin } from "vite";

/** The parts of the runtime that a browser needs, and nothing else of its package. */
const PARTS = ["pyodide.mjs", "pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip", "pyodide-lock.json"];
const HOME = join(import.meta.dirname, "node_modules/pyodide");
const KINDS: Record<string, string> = { mjs: "text/javascript", wasm: "application/wasm", zip: "application/zip", json: "application/json" };
/** What of the standard library serves servers, windows, terminals and tests. */
const LEFT_OUT = new RegExp(
  `^((${[
    "_pyrepl _pyio bdb cProfile ctypes curses dbm difflib doctest email ensurepip ftplib http idlelib imaplib ipaddress mailbox",
    "modulefinder multiprocessing nntplib optparse pdb pickletools plistlib poplib profile pstats pyclbr pydoc pydoc_data rlcompleter sched smtplib",
    "socketserver sqlite3 statistics symtable tabnanny tarfile telnetlib test this timeit tkinter trace turtle turtledemo unittest venv wave webbrowser",
    "wsgiref xml xmlrpc zipapp _ios_support _android_support",
  ]
    .join(" ")
    .replaceAll(" ", "|")})(/|\\.py)|encodings/(?!__init__|aliases|ascii|utf_8|latin_1|cp437|idna))`,
);
const THEN = new Date(2000, 0, 1);
/** Dense enough at a tenth of the time that the densest takes. */
const DENSE = 9;

/** The standard library as far as it is used; not packed, since the whole is packed for its way. */
function library(whole: Uint8Array): Uint8Array {
  const files = Object.entries(unzipSync(whole)).filter(([name]) => !name.endsWith("/") && !LEFT_OUT.test(name));
  return zipSync(Object.fromEntries(files), { level: 0, mtime: THEN });
}

/** The runtime speaks for itself about packages it could fetch: none are. */
function lock(whole: Uint8Array): Uint8Array {
  return Buffer.from(JSON.stringify({ ...JSON.parse(Buffer.from(whole).toString()), packages: {} }));
}

function part(name: string): Uint8Array {
  const whole = readFileSync(join(HOME, name));
  return name === "python_stdlib.zip" ? library(whole) : name === "pyodide-lock.json" ? lock(whole) : whole;
}

/** A part as it goes over the wire, in the two ways a browser takes it. */
function packed(source: Uint8Array) {
  const quality = { params: { [constants.BROTLI_PARAM_QUALITY]: DENSE, [constants.BROTLI_PARAM_LGWIN]: constants.BROTLI_MAX_WINDOW_BITS } };
  return [
    [".br", brotliCompressSync(source, quality)],
    [".gz", gzipSync(source)],
  ] as const;
}

/**
 * The runtime in which a device works jobs out: its parts lie beside the other assets in a folder named by what is in them, since they ask for each other
 * by name.
 */
export function runtime(): { address: string; plugin: Plugin } {
  const version = JSON.parse(readFileSync(join(HOME, "package.json"), "utf-8")).version as string;
  const folder = `assets/runtime-${createHash("sha256").update(`${version} ${LEFT_OUT}`).digest("hex").slice(0, 12)}`;
  return {
    address: `/${folder}/`,
    plugin: {
      name: "runtime",
      generateBundle() {
        for (const name of PARTS) {
          const source = part(name);
          this.emitFile({ type: "asset", fileName: `${folder}/${name}`, source });
          // The others are packed with the rest of the page.
          if (/wasm|zip/.test(name))
            for (const [kind, file] of packed(source)) this.emitFile({ type: "asset", fileName: `${folder}/${name}${kind}`, source: file });
        }
      },
      configureServer(server) {
        server.middlewares.use(`/${folder}/`, (request, answer, next) => {
          const name = (request.url ?? "").replace(/^\//, "").split("?")[0] ?? "";
          if (!PARTS.includes(name)) return next();
          answer.setHeader("Content-Type", KINDS[name.split(".").at(-1) ?? ""] ?? "");
          answer.end(part(name));
        });
      },
    },
  };
}
