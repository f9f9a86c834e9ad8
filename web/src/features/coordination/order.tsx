import type { Cited, Pair } from "../../api/types";
import { Steps } from "../../parts/check-list";
import { glued } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { ORDER } from "./words";

const MARK = { total: "meets", partial: "close", none: "short", not_known: "not_known" } as const;
const WORD = { total: "total", partial: "partial", none: "none", not_known: "not known" } as const;

const RANK = ["none", "partial", "not_known", "total"];

interface Group {
  key: string;
  lowers: string[];
  pair: Pair;
}

/** Pairs that say the same of the same upper device are told once; what is worst comes first. */
function grouped(pairs: readonly Pair[]): Group[] {
  const found = new Map<string, Group>();
  for (const pair of pairs) {
    const key = `${pair.result}/${pair.upper}/${pair.text}`;
    const there = found.get(key);
    if (there) there.lowers.push(pair.lower);
    else found.set(key, { key, lowers: [pair.lower], pair });
  }
  return [...found.values()].sort((a, b) => RANK.indexOf(a.pair.result) - RANK.indexOf(b.pair.result));
}

/** Which device opens first, pair by pair down the tree. It makes no other check pass or fail. */
export function Order({ pairs, onTable }: { pairs: readonly Pair[]; onTable: (cite: Cited) => void }) {
  return (
    <section aria-label={ORDER.whichDeviceOperates} className="mt-8">
      <h2 className="font-semibold text-xl">{ORDER.whichDeviceOperates}</h2>
      {pairs.length === 0 && <p className="text-faded">{ORDER.noTwoDevices}</p>}
      <ul className="mt-2">
        {grouped(pairs).map(({ key, lowers, pair }) => (
          <li key={key} className="border-hair border-t" data-pair={pair.result}>
            <details>
              <summary className="grid cursor-pointer grid-cols-[1.4rem_6rem_17rem_1fr] items-baseline gap-x-2 py-1.5 hover:bg-lit max-sm:grid-cols-[1.4rem_1fr]">
                <Mark verdict={MARK[pair.result]} />
                <span className="font-semibold">{WORD[pair.result]}</span>
                <span className="max-sm:col-start-2">
                  {lowers.join("; ")} below {pair.upper}
                </span>
                <span className="text-faded max-sm:col-start-2">{glued(pair.text)}</span>
              </summary>
              {lowers.length > 1 && <p className="ml-8 text-faded">Checked for {pair.lower}:</p>}
              <Steps steps={pair.steps} clause={pair.clause} onTable={onTable} />
            </details>
          </li>
        ))}
      </ul>
    </section>
  );
}
