import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { setMoney } from "../../api/client";
import { moneyShown } from "../../api/money";
import {
  dropPrices,
  type MaterialLine,
  type Materials,
  materials,
  pricesFile,
  type Substitute,
  setPrices,
  substitutes,
} from "../../api/site";
import type { Change } from "../../api/types";
import { askAnew } from "../../parts/ask-anew";
import { pounds, withVat } from "../../parts/price";
import { useStageChoice } from "../../parts/stage-choice";
import { type OnSite, Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { inputClass, NumberField } from "../../ui/editors";
import { FileButton } from "../../ui/file-button";
import { exact, glued, quantity } from "../../ui/quantity";
import { Mark, WORDS } from "../../ui/verdict";
import { GROUPS, MATERIALS, NOTHING, WAITING } from "./words";

const amount = (line: MaterialLine) =>
  line.need.unit === "m" ? quantity(line.need.count, "m") : `${exact(line.need.count)}\u00a0×`;

/** What the job takes, with prices and stock; ticked off as it is bought. */
export function MaterialsPage() {
  const store = useStore();
  const client = useQueryClient();
  const { unsent, asOf, settled } = useJob();
  const site = useSiteLog();
  const { stage, choice } = useStageChoice();
  const found = useQuery({
    queryKey: ["site", store.job, "materials", asOf, stage],
    queryFn: () => materials(store.job, stage),
    placeholderData: (before) => before,
    enabled: settled,
  });
  if (found.isPending || !site)
    return (
      <p className="p-8 text-faded" role="status">
        {unsent > 0 ? WAITING.materials : "Counting materials …"}
      </p>
    );
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const list = found.data;
  const groups = [...new Set(list.lines.map((l) => l.need.group))];
  const usual = list.lines.some((l) => l.need.usual);
  return (
    <div className="max-w-5xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{MATERIALS.materials}</h1>
      {choice}
      <p className="mt-1" role="status">
        By {list.own ? "the firm’s prices" : "the made-up prices supplied"} <strong>{withVat(list.total)}</strong>
        {list.unpriced > 0 && `, ${list.unpriced} ${list.unpriced === 1 ? "line" : "lines"} without a price`}.{" "}
        {list.state === "answers" && (
          <>
            {list.merchant}: <strong>{pounds(list.asked)}</strong> for the items it has enough of.
          </>
        )}
        {list.state === "away" && <span className="text-close">{MATERIALS.merchantNotAnswering}</span>}
        {list.state === "none" && <span className="text-faded">{MATERIALS.noMerchantSet}</span>}
      </p>
      {usual && <p className="text-faded">{MATERIALS.estimatedUsualSizes}</p>}
      <Unsent site={site} />
      {list.lines.length === 0 && <p className="mt-3">{NOTHING.materials}</p>}
      {groups.map((group) => (
        <section key={group} className="mt-5" aria-label={GROUPS[group]}>
          <h2 className="font-semibold text-xl">{GROUPS[group]}</h2>
          <ul>
            {list.lines
              .filter((l) => l.need.group === group)
              .map((line) => (
                <Line key={line.need.key} line={line} site={site} answers={list.state === "answers"} />
              ))}
          </ul>
        </section>
      ))}
      {list.uncounted.length > 0 && (
        <section className="mt-5" aria-label={MATERIALS.notCounted} data-uncounted>
          <h2 className="font-semibold text-xl">{MATERIALS.notCounted}</h2>
          <ul>
            {list.uncounted.map((left) => (
              <li key={`${left.what} ${left.where}`} className="border-hair border-t py-1.5">
                <strong>{glued(left.what)}</strong>: {left.why}
                <p className="text-faded">{left.where}</p>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Prices list={list} designs={site.designs} onChanged={() => askAnew(client, ["site", store.job])} />
    </div>
  );
}

function Line({ line, site, answers }: { line: MaterialLine; site: OnSite; answers: boolean }) {
  const { need, offer } = line;
  const last = site.waiting.findLast((e) => e.kind === "had" && e.data.key === need.key);
  const had = last ? last.data.have === true : line.had;
  const lacking = answers && need.group === "cable" && need.circuits.length > 0 && offer !== null && !offer.enough;
  return (
    <li
      data-need={need.key}
      className="grid grid-cols-[3.25rem_1fr_auto] items-start gap-x-3 border-hair border-t py-1.5"
    >
      <button
        type="button"
        aria-pressed={had}
        aria-label={`${need.title}: ${had ? "there" : "not on site yet"}`}
        className={`min-h-11 rounded-sm border ${had ? "border-meets bg-meets text-paper" : "border-hair bg-paper hover:bg-lit"}`}
        onClick={() => site.write({ kind: "had", data: { key: need.key, have: !had } })}
      >
        {had ? "there" : ""}
      </button>
      <div className="min-w-0">
        <p>
          <span className="figure whitespace-nowrap">{amount(line)}</span> <strong>{glued(need.title)}</strong>
          {need.usual && "\u00a0†"}
        </p>
        <p className="text-faded">
          {need.where.join(", ")}
          {need.note && <span className="text-close">{`; ${need.note}`}</span>}
          {line.by && `; on site, says ${line.by}`}
          {last && <span className="text-close">{MATERIALS.notSentYet}</span>}
        </p>
        {lacking && <Lacking line={line} />}
      </div>
      <p className="text-right">
        <span className="figure">{line.cost === null ? "no price" : pounds(line.cost)}</span>
        {answers && (
          <span className={`block text-sm ${offer && !offer.enough ? "text-short" : "text-faded"}`}>
            {offer === null
              ? "not in the catalogue"
              : offer.enough
                ? `${exact(offer.stock)} in stock, ${pounds(offer.cost)}`
                : offer.stock > 0
                  ? `only ${exact(offer.stock)} in stock`
                  : "out of stock"}
          </span>
        )}
      </p>
    </li>
  );
}

/** What the merchant has in the place of a cable, each put into its circuits and worked out again. */
function Lacking({ line }: { line: MaterialLine }) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["site", store.job, "substitutes", asOf, line.need.key],
    queryFn: () => substitutes(store.job, line.need.key, line.need.count),
    enabled: open && settled,
  });
  return (
    <details className="mt-1" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">
        Alternatives in stock <span className="font-normal text-faded">{MATERIALS.eachPutThrough}</span>
      </summary>
      {open && found.isPending && <p className="text-faded">{MATERIALS.workingOut}</p>}
      {found.error && <p className="text-short">{found.error.message}</p>}
      {found.data?.length === 0 && <p className="text-faded">{MATERIALS.noOtherSize}</p>}
      <ul>
        {found.data?.map((one) => (
          <One key={one.key} one={one} onTake={() => store.edit(one.changes as unknown as Change[])} />
        ))}
      </ul>
    </details>
  );
}

function One({ one, onTake }: { one: Substitute; onTake: () => void }) {
  return (
    <li data-substitute={one.key} className="border-hair border-t py-2">
      <p className="flex items-baseline gap-x-3">
        <strong className="flex-1">{glued(one.title)}</strong>
        <span className="figure">{pounds(one.price)} a metre</span>
        <Button onClick={onTake}>{MATERIALS.use}</Button>
      </p>
      <p className={one.passes ? "" : "text-short"}>{one.passes ? MATERIALS.meetsEveryCheck : MATERIALS.doesNotMeet}</p>
      {one.turned.length > 0 && (
        <ul className="mt-1">
          {one.turned.slice(0, 4).map((t) => (
            <li key={`${t.where} ${t.title}`} className="grid grid-cols-[1.4rem_1fr] items-baseline gap-x-1">
              <Mark verdict={t.after} />
              <span>
                {t.where}, {t.title.toLowerCase()}: {glued(t.now)}{" "}
                <span className="text-faded">
                  (was {WORDS[t.before]}: {glued(t.was)})
                </span>
              </span>
            </li>
          ))}
          {one.turned.length > 4 && <li className="text-faded">and {one.turned.length - 4} more figures</li>}
        </ul>
      )}
    </li>
  );
}

/** Currency and rate of VAT, as the firm shows amounts. */
function MoneyFields({ onSave }: { onSave: (currency: string, vat: number | null) => Promise<void> }) {
  const shown = moneyShown();
  const [currency, setCurrency] = useState(shown.currency);
  return (
    <div className="mt-3 flex flex-wrap items-end gap-3">
      <label>
        <span className="block text-faded">{MATERIALS.currency}</span>
        <input
          className={`${inputClass} mt-1 w-20!`}
          maxLength={3}
          value={currency}
          onChange={(event) => setCurrency(event.target.value)}
          onBlur={() =>
            currency.trim() !== "" && currency !== shown.currency && void onSave(currency.trim(), shown.vat)
          }
        />
      </label>
      <NumberField
        label={MATERIALS.vat}
        value={shown.vat}
        limits={{ lo: 0, hi: 50, unit: "%" }}
        onSave={(vat) => void onSave(currency.trim() || shown.currency, vat)}
      />
    </div>
  );
}

function Prices({ list, designs, onChanged }: { list: Materials; designs: boolean; onChanged: () => Promise<void> }) {
  const [said, setSaid] = useState("");
  const [why, setWhy] = useState("");
  const run = async (work: () => Promise<string>) => {
    setSaid("");
    setWhy("");
    try {
      setSaid(await work());
      await onChanged();
    } catch (error) {
      setWhy(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section className="no-print mt-6 max-w-2xl" aria-label={MATERIALS.prices}>
      <h2 className="font-semibold text-xl">{MATERIALS.prices}</h2>
      <p className="text-faded">
        {list.own ? MATERIALS.firmUsesOwn : MATERIALS.pricesMadeUp} {MATERIALS.fixesCheapestSizes}
      </p>
      <p className="mt-2 flex flex-wrap items-center gap-3">
        <a className="word" href={pricesFile} download>
          {MATERIALS.saveFile}
        </a>
        {designs && (
          <>
            <FileButton
              name={MATERIALS.priceBook}
              accept=".csv,text/csv"
              onFile={(file) =>
                run(async () => `${file.name}: ${(await setPrices(await file.text())).lines} lines are in use now.`)
              }
            >
              {MATERIALS.loadPriceList}
            </FileButton>
            {list.own && (
              <Button onClick={() => run(() => dropPrices().then(() => MATERIALS.madeUpPrices))}>
                {MATERIALS.goBackMade}
              </Button>
            )}
          </>
        )}
      </p>
      {designs && (
        <MoneyFields onSave={(currency, vat) => run(() => setMoney(currency, vat).then(() => MATERIALS.moneySaved))} />
      )}
      {said && <p role="status">{said}</p>}
      {why && (
        <p role="alert" className="text-short">
          {why}
        </p>
      )}
    </section>
  );
}
