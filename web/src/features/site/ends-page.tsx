import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { endsOf, setSiteRules, siteRules } from "../../api/site";
import { askAnew } from "../../parts/ask-anew";
import { usePaths } from "../../parts/paths";
import { useStageChoice } from "../../parts/stage-choice";
import { type OnSite, Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { glued, quantity } from "../../ui/quantity";
import { type Alike, alike } from "./alike";
import { AFTER, AFTER_ALL, ENDS, NOTHING } from "./words";

/** How each colour of a core is drawn; the word stands beside it, so that nothing hangs on the colour. */
const DRAWN: Record<string, string> = {
  brown: "#7a4a24",
  black: "#1a1a1a",
  grey: "#8b8b86",
  blue: "#2f6fb0",
  "green-yellow": "url(#green-yellow)",
  bare: "#c77b4a",
  red: "#b3261e",
  yellow: "#e3c62f",
  green: "#2f7d3b",
  white: "#f4f1ea",
  orange: "#d9822b",
  purple: "#6b4a8c",
  pink: "#d58aa5",
  turquoise: "#3aa6a0",
};
const USES: Record<string, string> = { line: "L", neutral: "N", cpc: "cpc" };

/** The ends of every cable: which core is what, what is sleeved, the gland, where the armour is earthed, what to test after. */
export function EndsPage() {
  const store = useStore();
  const { state, asOf } = useJob();
  const site = useSiteLog();
  const { stage, choice } = useStageChoice();
  const found = useQuery({
    queryKey: ["site", store.job, "ends", asOf, stage],
    queryFn: () => endsOf(store.job, stage),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  if (found.isPending || !site) return <p className="p-8 text-faded">{ENDS.loadingTerminations}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const warnings = [...new Set(found.data.map((e) => e.warning).filter(Boolean))];
  const { every, groups } = alike(found.data);
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <svg width="0" height="0" aria-hidden="true" className="absolute">
        <pattern id="green-yellow" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="#e3c62f" />
          <rect width="3" height="6" fill="#2f7d3b" />
        </pattern>
      </svg>
      <h1 className="font-semibold text-2xl">{ENDS.terminations}</h1>
      {choice}
      <p className="mt-1 text-faded">{ENDS.coresUseCurrent}</p>
      {warnings.map((text) => (
        <p key={text} className="mt-2 border-close border-l-4 pl-3">
          <strong>{ENDS.caution}</strong> {text}
        </p>
      ))}
      {found.data.some((e) => e.rule) && (
        <NeutralRule rule={found.data.find((e) => e.rule)?.rule ?? ""} designs={site.designs} />
      )}
      <Unsent site={site} />
      {every.length > 0 && (
        <p className="mt-2" data-every-test>
          {AFTER_ALL} {glued(every.join("; "))}.
        </p>
      )}
      {found.data.length === 0 && <p className="mt-3">{NOTHING.terminations}</p>}
      <ul className="mt-3">
        {groups.map((group) => (
          <Group key={`${group.of[0]?.circuit}/${group.of[0]?.cable}`} group={group} site={site} />
        ))}
      </ul>
    </div>
  );
}

/** Which core of a three-core armoured cable is the neutral: the rule of the firm, with its reason. */
function NeutralRule({ rule, designs }: { rule: string; designs: boolean }) {
  const client = useQueryClient();
  const store = useStore();
  const [why, setWhy] = useState("");
  const other = rule.startsWith("black") ? "grey" : "black";
  const change = async () => {
    setWhy("");
    try {
      await setSiteRules({ ...(await siteRules()), neutral: other });
      await askAnew(client, ["site", store.job, "ends"]);
    } catch (error) {
      setWhy(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <p className="mt-2" data-neutral={other === "grey" ? "black" : "grey"}>
      {ENDS.threeCores} {rule}.{" "}
      {designs && (
        <button type="button" className="word no-print" onClick={() => void change()}>
          take {other} as the neutral instead
        </button>
      )}
      {why && (
        <span role="alert" className="block text-short">
          {why}
        </span>
      )}
    </p>
  );
}

/** Terminations that are made alike: each by its number and name, and once how. */
function Group({ group, site }: { group: Alike; site: OnSite }) {
  const paths = usePaths();
  const one = group.of[0];
  if (!one) return null;
  const waiting = site.waiting.findLast((e) => e.kind === "colours" && e.subject === one.circuit);
  const older = waiting ? waiting.data.older === true : one.older;
  // What is there already has the colours somebody saw, not those it should have.
  const known = one.existing && older === null ? [] : one.cores;
  const code = one.before === null ? "old colours" : `colours used before ${one.before}`;
  const see = (value: boolean) => site.write({ kind: "colours", subject: one.circuit, data: { older: value } });
  return (
    <li data-ends={group.of.map((e) => e.number).join(" ")} className="border-hair border-t py-3">
      {group.of.map((each) => (
        <h2 key={`${each.circuit}/${each.cable}`}>
          <span className="figure mr-2 border border-ink px-1">{each.number}</span>
          <Link
            className="font-semibold underline decoration-hair underline-offset-4 hover:bg-lit"
            to={paths.circuit(each.circuit)}
          >
            {each.name}
          </Link>
          : {glued(each.cable)}
          {each.existing && <span className="text-faded">, existing</span>}
        </h2>
      ))}
      {one.existing && (
        <fieldset className="mt-1 flex flex-wrap gap-x-4">
          <legend className="sr-only">Colours of {one.name}</legend>
          {(
            [
              [false, "current colours"],
              [true, code],
            ] as const
          ).map(([value, title]) => (
            <label key={title} className="inline-flex min-h-8 items-center gap-2">
              <input
                type="radio"
                name={`colours-${one.circuit}/${one.cable}`}
                className="h-5 w-5"
                checked={older === value}
                onChange={() => see(value)}
              />
              {title}
            </label>
          ))}
          {older === null && <span className="self-center text-close">{ENDS.notChecked}</span>}
        </fieldset>
      )}
      <ul className="mt-2 grid gap-x-4 gap-y-1 sm:grid-cols-2 lg:grid-cols-3">
        {known.map((core) => {
          const was = older && core.use !== "cpc";
          const made = was ? core.older : core.made;
          const sleeve = was ? "" : core.sleeve;
          return (
            <li key={core.use} className="flex items-center gap-2">
              <svg viewBox="0 0 58 22" className="h-6 w-16 shrink-0" aria-hidden="true">
                <rect x="1" y="6" width="56" height="10" fill={DRAWN[made] ?? "none"} stroke="currentColor" />
                {sleeve && (
                  <rect x="33" y="2" width="22" height="18" fill={DRAWN[sleeve] ?? "none"} stroke="currentColor" />
                )}
              </svg>
              <span>
                <strong>{USES[core.use] ?? core.use}</strong>{" "}
                {made === "not in the cable" ? (
                  <span className="text-short">{ENDS.noSpareCore}</span>
                ) : made === "" ? (
                  <span className="text-close">{ENDS.oldColourNot}</span>
                ) : sleeve ? (
                  <>
                    {made}, <strong>sleeved {sleeve}</strong>
                  </>
                ) : (
                  made
                )}
              </span>
            </li>
          );
        })}
      </ul>
      {one.spare > 0 && (
        <p className="text-faded">
          {one.spare === 1 ? ENDS.oneCore : `${one.spare} cores are`} spare: terminate {one.spare === 1 ? "it" : "them"}{" "}
          in a connector or earth {one.spare === 1 ? "it" : "them"}; never cut them off.
        </p>
      )}
      {one.gland && (
        <p className="mt-1">
          Gland <span className="figure">{one.gland}</span>
          {one.doubtful && "\u00a0†"}
          {one.fly_lead !== null && (
            <>
              ; fly lead <span className="figure">{quantity(one.fly_lead, "mm²")}</span> green-yellow
            </>
          )}
        </p>
      )}
      {one.ends.some((e) => e.armour) && (
        <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3">
          {one.ends.map((end) => (
            <div key={end.where} className="contents">
              <dt className="font-semibold">{end.where}</dt>
              <dd>
                {end.earthed ? "armour earthed" : "armour not earthed"}: {end.armour}.{" "}
                <span className="text-faded">{end.why}</span>
              </dd>
            </div>
          ))}
        </dl>
      )}
      {group.tests.length > 0 && (
        <p className="mt-1 text-faded">
          {AFTER} {glued(group.tests.join("; "))}.
        </p>
      )}
    </li>
  );
}
