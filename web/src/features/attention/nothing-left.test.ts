import { expect, test } from "vitest";
import type { JobState } from "../../api/types";
import { nothingLeft } from "./nothing-left";

type Given = Pick<JobState, "summaries" | "attention">;
const job = (verdicts: string[], levels: string[] = []) =>
  ({ summaries: verdicts.map((verdict) => ({ verdict })), attention: levels.map((level) => ({ level })) }) as Given;

test("nothing is left where all meets and every test result stands", () => {
  expect(nothingLeft(job(["meets", "meets"], ["assumed", "confirm"]), [])).toBe(true);
});

test.each([
  ["no circuit", job([]), []],
  ["a circuit fails", job(["meets", "short"]), []],
  ["a circuit is not known", job(["not_known"]), []],
  ["a circuit is marginal", job(["close"]), []],
  ["a board fails", job(["meets"], ["short"]), []],
  ["the intake is not known", job(["meets"], ["not_known"]), []],
  ["a test result is to be queried", job(["meets"]), [{}]],
  ["the test results are not known yet", job(["meets"]), null],
])("something is left: %s", (_, given, toQuery) => {
  expect(nothingLeft(given, toQuery)).toBe(false);
});
