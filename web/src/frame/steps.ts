import type { JobState } from "../api/types";
import type { pathsOf } from "../parts/paths";

export type StepId = JobState["steps"][number]["id"];

interface Step {
  id: StepId;
  title: string;
  /** The letter that leads there. */
  key: string;
  path: (paths: ReturnType<typeof pathsOf>) => string;
}

/** The steps of the work in their order, as the frame leads through them. */
export const STEPS: readonly Step[] = [
  { id: "survey", title: "Survey", key: "i", path: (p) => p.survey() },
  { id: "demand", title: "Maximum demand", key: "d", path: (p) => p.demand },
  { id: "boards", title: "Boards", key: "b", path: (p) => p.boards },
  { id: "routes", title: "Cable routes", key: "r", path: (p) => p.routes() },
  { id: "earthing", title: "Earthing", key: "t", path: (p) => p.earthing() },
  { id: "coordination", title: "Selectivity", key: "c", path: (p) => p.coordination() },
  { id: "attention", title: "Needs attention", key: "g", path: (p) => p.attention },
];

/** What is done on site and on paper, once the design stands. */
export const ON_SITE: readonly { title: string; also: string; path: Step["path"] }[] = [
  { title: "Cable list", also: "pull list cables drums cut lengths", path: (p) => p.pulls },
  { title: "Materials", also: "buy order merchant prices stock glands boxes clips", path: (p) => p.materials },
  { title: "Terminations", also: "ends cores colours sleeves glands armour fly-lead", path: (p) => p.ends },
  { title: "Safe isolation", also: "isolation safe dead lock tag prove tester", path: (p) => p.isolation() },
  {
    title: "Test results",
    also: "readings tests instrument r1r2 zs insulation rcd ring results",
    path: (p) => p.tests(),
  },
  { title: "Existing", also: "existing installation survey observations grading report", path: (p) => p.existing },
  {
    title: "Documents",
    also: "papers print pdf xlsx csv schedule chart labels minor work record certificate",
    path: (p) => p.papers(),
  },
  { title: "Stages", also: "stages days first day later temporary supply keep alive plan", path: (p) => p.stages },
  { title: "Revisions", also: "issue sign signature compare as built", path: (p) => p.revisions },
];
