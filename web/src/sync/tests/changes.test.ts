import { describe, expect, it } from "vitest";
import type { Change, Circuit, Installation } from "../../api/types";
import { applied, apply, type Refused } from "../changes";
import golden from "../golden.gen.json";

type Flat = Record<string, unknown>;

/** A job as one flat mapping, key by key as the core's `difference.flat` makes it. */
function flat(inst: Installation): Flat {
  const found: Flat = { "job:.name": inst.name, "job:.note": inst.note };
  const fields = (kind: string, id: string, part: object, apart: string[] = ["id"]) => {
    for (const [name, value] of Object.entries(part)) if (!apart.includes(name)) found[`${kind}:${id}.${name}`] = value;
  };
  const order = (kind: string, parent: string, parts: readonly { id: string }[]) => {
    found[`order:${kind}:${parent}`] = parts.map((p) => p.id);
  };
  fields("supply", "", inst.supply);
  for (const kind of ["board", "route", "dismissal"] as const) {
    order(kind, "", inst[`${kind}s`]);
    for (const part of inst[`${kind}s`]) fields(kind, part.id, part);
  }
  for (const b of inst.boards)
    order(
      "circuit",
      b.id,
      inst.circuits.filter((c) => c.board === b.id),
    );
  for (const c of inst.circuits) {
    fields("circuit", c.id, c, ["id", "board", "loads", "run", "device"]);
    for (const [outer, inside] of inner(c))
      for (const [name, value] of Object.entries(inside)) found[`circuit:${c.id}.${outer}.${name}`] = value;
    order("load", c.id, c.loads);
    order("span", c.id, c.run.spans);
    for (const x of c.loads) fields("load", x.id, x);
    for (const s of c.run.spans) fields("span", s.id, s);
  }
  return found;
}
const inner = (c: Circuit): [string, object][] => [
  ["device", c.device],
  ["cable", c.run.cable],
];

function changed(before: Installation, after: Installation): Flat {
  const old = flat(before);
  const next = flat(after);
  const found: Flat = {};
  for (const key of Object.keys(old)) if (!(key in next)) found[key] = { gone: true };
  for (const [key, value] of Object.entries(next))
    if (!(key in old) || JSON.stringify(old[key]) !== JSON.stringify(value)) found[key] = value;
  return found;
}

interface Step {
  change: Change;
  refused?: string;
  changed?: Flat;
}

describe("the mirror of the core's algebra", () => {
  const cases = golden.cases as unknown as Step[][];
  it.each(cases.map((steps, i) => [i, steps] as const))("does in case %i what the core does", (_, steps) => {
    let now = golden.start as unknown as Installation;
    for (const step of steps) {
      const before = JSON.stringify(now);
      if (step.refused) {
        let field = "";
        try {
          apply(now, step.change);
        } catch (error) {
          field = (error as Refused).field;
        }
        expect([step.change, field]).toEqual([step.change, step.refused]);
        expect(applied(now, [step.change])).toBe(now);
      } else {
        const after = apply(now, step.change);
        expect(JSON.stringify(now)).toBe(before);
        expect([step.change, changed(now, after)]).toEqual([step.change, step.changed]);
        now = after;
      }
    }
  });

  it("has cases of moves between boards, removals with children, references and refusals", () => {
    const steps = cases.flat();
    expect(steps.length).toBeGreaterThan(300);
    expect(steps.filter((s) => s.refused === "feeds").length).toBeGreaterThan(3);
    expect(
      steps.filter((s) => s.change.kind === "board" && s.change.op === "remove" && s.changed).length,
    ).toBeGreaterThan(2);
    expect(
      steps.filter((s) => s.change.kind === "circuit" && s.change.op === "move" && s.change.parent).length,
    ).toBeGreaterThan(5);
  });
});
