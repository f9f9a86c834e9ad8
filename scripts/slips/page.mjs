// Slips in the TypeScript of the page: made one at a time in a copy of the sources, where the tests that hang on the file are run.
// node page.mjs FOLDER COUNT SEED LANES, from web/; what came of each is written to FOLDER/found.jsonl.
import { spawn } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";

const ts = createRequire(path.join(process.cwd(), "package.json"))("typescript");
const [folder, count, seed, lanes] = [process.argv[2], ...process.argv.slice(3).map(Number)];
const ENDLESS = 120_000;
const EDGE = { "<": "<=", "<=": "<", ">": ">=", ">=": ">" };
const OPPOSITE = { "===": "!==", "!==": "===" };

function* files(at) {
  for (const entry of fs.readdirSync(at, { withFileTypes: true })) {
    const name = path.join(at, entry.name);
    if (entry.isDirectory() && entry.name !== "tests") yield* files(name);
    else if (/\.tsx?$/.test(name) && !/\.(test|gen|d)\.tsx?$/.test(name)) yield name;
  }
}

/** What could become of one node: class and new text each. */
function turns(node, text) {
  const of = (n) => n.getText();
  const found = [];
  if (ts.isBinaryExpression(node)) {
    const sign = node.operatorToken.getText();
    const [left, right] = [of(node.left), of(node.right)];
    if (EDGE[sign]) found.push(["edge", `${left} ${EDGE[sign]} ${right}`]);
    if (OPPOSITE[sign]) found.push(["comparison", `${left} ${OPPOSITE[sign]} ${right}`]);
    if (sign === "&&") found.push(["condition dropped", `(${left})`], ["condition dropped", `(${right})`]);
    if (sign === "||" || sign === "??") found.push(["alternative dropped", `(${left})`]);
    if (sign === "+" && !/["'`]/.test(left + right)) found.push(["sign", `${left} - ${right}`]);
    if (sign === "-") found.push(["sign", `${left} + ${right}`]);
  }
  if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken) found.push(["not dropped", `(${of(node.operand)})`]);
  if (ts.isCallExpression(node) && /^Math\.(min|max)$/.test(of(node.expression)) && node.arguments.length > 1) {
    const [name, list] = [of(node.expression) === "Math.min" ? "Math.max" : "Math.min", node.arguments.map(of)];
    found.push(["min for max", `${name}(${list.join(", ")})`]);
    if (list.length === 2) for (const one of list) if (!one.startsWith("...")) found.push(["cap or floor dropped", `(${one})`]);
  }
  if (ts.isCallExpression(node) && ts.isPropertyAccessExpression(node.expression)) {
    const name = node.expression.name.text;
    if (name === "filter" && node.arguments.length === 1) found.push(["filter dropped", of(node.expression.expression)]);
    if (name === "some" || name === "every")
      found.push(["any for all", `${of(node.expression.expression)}.${name === "some" ? "every" : "some"}(${node.arguments.map(of).join(", ")})`]);
  }
  if (ts.isIfStatement(node) && !node.elseStatement) {
    const last = ts.isBlock(node.thenStatement) ? node.thenStatement.statements.at(-1) : node.thenStatement;
    if (last && (ts.isReturnStatement(last) || ts.isThrowStatement(last) || ts.isContinueStatement(last))) found.push(["guard dropped", "{}"]);
  }
  if (ts.isExpressionStatement(node) && (ts.isCallExpression(node.expression) || (ts.isBinaryExpression(node.expression) && node.expression.operatorToken.getText() === "=")))
    found.push(["statement dropped", ";"]);
  if (ts.isConditionalExpression(node) && !/^["'`]/.test(of(node.whenTrue)))
    found.push(["choice", `(${of(node.whenTrue)})`], ["choice", `(${of(node.whenFalse)})`]);
  return found;
}

function sites(file) {
  const text = fs.readFileSync(file, "utf8");
  const tree = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const found = [];
  const visit = (node) => {
    for (const [kind, becomes] of turns(node, text)) {
      const line = tree.getLineAndCharacterOfPosition(node.getStart()).line + 1;
      const was = node.getText().replace(/\s+/g, " ");
      const told = `${was.slice(0, 60)} → ${becomes.replace(/\s+/g, " ").slice(0, 50)}`;
      found.push({ file: `web/${file}`, line, kind, told, start: node.getStart(), end: node.getEnd(), becomes, own: file });
    }
    ts.forEachChild(node, visit);
  };
  visit(tree);
  return found;
}

/** A small source of chance that gives the same numbers each time. */
function chance(start) {
  let state = start >>> 0 || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state / 2 ** 32;
  };
}

/** As many of each class as of any other, while it has them. */
function sampled(all) {
  if (!count || count >= all.length) return all;
  const next = chance(seed);
  const by = Map.groupBy ? Map.groupBy(all, (s) => s.kind) : all.reduce((m, s) => m.set(s.kind, [...(m.get(s.kind) ?? []), s]), new Map());
  for (const list of by.values()) list.sort(() => next() - 0.5);
  const found = [];
  while (found.length < count) for (const kind of [...by.keys()].sort()) if (by.get(kind).length && found.length < count) found.push(by.get(kind).pop());
  return found;
}

function copyOf(lane) {
  const tree = path.join(folder, `tree-${lane}`);
  fs.mkdirSync(tree, { recursive: true });
  for (const name of fs.readdirSync(".")) {
    if (["node_modules", "dist"].includes(name)) continue;
    fs.cpSync(name, path.join(tree, "web", name), { recursive: true });
  }
  fs.symlinkSync(path.resolve("node_modules"), path.join(tree, "web", "node_modules"));
  // What tests read beside the page.
  fs.symlinkSync(path.resolve("../docs"), path.join(tree, "docs"));
  return path.join(tree, "web");
}

function tested(tree, slip) {
  return new Promise((done) => {
    const run = spawn("npx", ["vitest", "related", "--run", "--bail", "1", "--passWithNoTests", "--reporter", "json", slip.own], { cwd: tree, detached: true, stdio: ["ignore", "pipe", "ignore"] });
    let said = "";
    run.stdout.on("data", (data) => (said += data));
    const late = setTimeout(() => process.kill(-run.pid, "SIGKILL"), ENDLESS);
    run.on("close", (code) => {
      clearTimeout(late);
      done(code !== 0 ? "noticed" : /"numTotalTests":0/.test(said) ? "untouched" : "unnoticed");
    });
  });
}

const waiting = sampled([...files("src")].flatMap(sites));
async function lane(number) {
  const tree = copyOf(number);
  for (let slip = waiting.shift(); slip; slip = waiting.shift()) {
    const began = Date.now();
    const at = path.join(tree, slip.own);
    const text = fs.readFileSync(at, "utf8");
    fs.writeFileSync(at, text.slice(0, slip.start) + slip.becomes + text.slice(slip.end));
    const came = await tested(tree, slip);
    fs.writeFileSync(at, text);
    console.log(`${came.padEnd(10)}${((Date.now() - began) / 1000).toFixed(1).padStart(6)} s  ${slip.file}:${slip.line} ${slip.kind}: ${slip.told}`);
    const { file, line, kind, told } = slip;
    fs.appendFileSync(path.join(folder, "found.jsonl"), `${JSON.stringify({ file, line, kind, told, came })}\n`);
  }
}
await Promise.all(Array.from({ length: lanes }, (_, i) => lane(i)));
