import { expect, test } from "vitest";
import type { Ends } from "../../api/site";
import { alike } from "./alike";

const core = (use: string, made: string, sleeve = "") => ({ use, made, sleeve, older: "" });
const ends = (number: string, rest: Partial<Ends> = {}): Ends =>
  ({
    circuit: `id-${number}`,
    number,
    name: `Circuit ${number}`,
    cable: "flat twin",
    cores: [core("line", "brown"), core("cpc", "bare", "green-yellow")],
    spare: 0,
    gland: "",
    doubtful: false,
    fly_lead: null,
    armour_r: null,
    ends: [],
    existing: false,
    older: null,
    before: null,
    warning: "",
    tests: ["continuity of the cpc", "polarity"],
    ...rest,
  }) as Ends;
const numbers = (found: ReturnType<typeof alike>) => found.groups.map((g) => g.of.map((e) => e.number).join(" "));

test("what is terminated the same way stands once, in the order it came", () => {
  const found = alike([ends("A1"), ends("A2", { gland: "20S" }), ends("A3"), ends("A4", { gland: "20S" })]);
  expect(numbers(found)).toEqual(["A1 A3", "A2 A4"]);
});

test("one core that differs, a sleeve, a fly lead or a doubtful gland is not alike", () => {
  const sleeved = ends("A2", { cores: [core("line", "blue", "brown"), core("cpc", "bare", "green-yellow")] });
  const found = alike([ends("A1"), sleeved, ends("A3", { fly_lead: 6 }), ends("A4", { doubtful: true })]);
  expect(numbers(found)).toEqual(["A1", "A2", "A3", "A4"]);
});

test("the tests of all are told once, further ones where they differ, and none is lost", () => {
  const ring = ends("A2", { tests: ["end-to-end", "continuity of the cpc", "polarity"] });
  const found = alike([ends("A1"), ring, ends("A3")]);
  expect(found.every).toEqual(["continuity of the cpc", "polarity"]);
  expect(numbers(found)).toEqual(["A1 A3", "A2"]);
  expect(found.groups.map((g) => g.tests)).toEqual([[], ["end-to-end"]]);
});

test("a test that the first alone needs is no test of all", () => {
  const ring = ends("A1", { tests: ["end-to-end", "polarity"] });
  const found = alike([ring, ends("A2", { tests: ["polarity"] })]);
  expect(found.every).toEqual(["polarity"]);
  expect(found.groups.map((g) => g.tests)).toEqual([["end-to-end"], []]);
});

test("of one alone its tests stand with it", () => {
  expect(alike([ends("A1")])).toMatchObject({ every: [], groups: [{ tests: ["continuity of the cpc", "polarity"] }] });
});

test("what exists already stands alone, since its colours are those somebody saw", () => {
  const found = alike([ends("A1", { existing: true }), ends("A2", { existing: true }), ends("A3"), ends("A4")]);
  expect(numbers(found)).toEqual(["A1", "A2", "A3 A4"]);
});
