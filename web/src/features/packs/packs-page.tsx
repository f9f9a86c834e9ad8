import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { bringPack, listPacks, type PackIn, type PackLine, packFile, putPackAway } from "../../api/client";
import { ApiError } from "../../api/wire";
import { askAnew } from "../../parts/ask-anew";
import { Ask } from "../../ui/ask";
import { base64 } from "../../ui/base64";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { dayOf } from "../../ui/time";
import { Rechecks } from "./rechecks";
import { PACKS } from "./words";

/** Tables of one's own: packs brought in, looked at before they are kept, offered to jobs; and what turned when one came in anew. */
export function PacksPage({ designs, supervises }: { designs: boolean; supervises: boolean }) {
  const client = useQueryClient();
  const found = useQuery({ queryKey: ["packs"], queryFn: listPacks });
  const [given, setGiven] = useState<PackIn | null>(null);
  const [words, setWords] = useState("");
  const [leaving, setLeaving] = useState<PackLine | null>(null);
  const look = useMutation({
    mutationFn: async (files: readonly File[]) => {
      const pack = await packOf(files);
      const seen = await bringPack({ ...pack, look: true });
      return { pack, seen };
    },
    onSuccess: ({ pack }) => {
      setWords("");
      setGiven(pack);
    },
  });
  const done = () => {
    void askAnew(client, ["packs"]);
    void askAnew(client, ["rechecks"]);
  };
  const keep = useMutation({
    mutationFn: (pack: PackIn) => bringPack({ ...pack, look: false, words }),
    onSuccess: () => {
      setGiven(null);
      look.reset();
      done();
    },
  });
  const away = useMutation({ mutationFn: putPackAway, onSettled: () => setLeaving(null), onSuccess: done });
  const trouble = look.error ?? keep.error ?? away.error;
  const past = look.data?.seen.departure?.bounds ?? [];
  const offered = (found.data ?? []).filter((p) => !p.away);
  const kept = (found.data ?? []).filter((p) => p.away && p.jobs > 0);
  return (
    <main className="mx-auto max-w-4xl px-6 py-8 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{PACKS.ownTables}</h1>
      <p className="mt-1 max-w-3xl text-faded">{PACKS.tablePackFolder}</p>
      {designs && (
        <p className="mt-3">
          <label className="word cursor-pointer focus-within:outline-2 focus-within:outline-copper">
            check a pack: a zip, or its files
            <input
              type="file"
              multiple
              accept=".zip,.csv,.toml"
              className="sr-only"
              onChange={(event) => {
                const files = [...(event.target.files ?? [])];
                event.target.value = "";
                setGiven(null);
                keep.reset();
                if (files.length > 0) look.mutate(files);
              }}
            />
          </label>
        </p>
      )}
      {look.isPending && <p className="mt-2 text-faded">{PACKS.checkingEveryCell}</p>}
      {trouble && <Wrong error={trouble} />}
      {given && look.data && (
        <section className="mt-3 border-hair border-l-2 pl-4" aria-label={PACKS.packLooked}>
          <p>
            No errors found in <strong>{look.data.seen.title}</strong>, version {look.data.seen.version}.{" "}
            <Said pack={look.data.seen} />
          </p>
          {look.data.seen.departure && <Departs found={look.data.seen.departure} />}
          {past.length > 0 && supervises && (
            <label className="mt-2 block max-w-2xl">
              {PACKS.whyRight}
              <textarea
                className={`${inputClass} mt-1 min-h-16 w-full`}
                maxLength={400}
                value={words}
                onChange={(event) => setWords(event.target.value)}
              />
            </label>
          )}
          {past.length > 0 && !supervises && <p className="mt-2 text-close">{PACKS.supervisorAdds}</p>}
          <p className="mt-2 flex flex-wrap gap-2">
            <Button
              strong
              disabled={keep.isPending || (past.length > 0 && (!supervises || words.trim() === ""))}
              onClick={() => keep.mutate(given)}
            >
              {PACKS.add}
            </Button>
            <Button onClick={() => setGiven(null)}>cancel</Button>
          </p>
        </section>
      )}
      {found.isPending && <p className="mt-4 text-faded">{PACKS.openingPacks}</p>}
      {found.data && offered.length === 0 && kept.length === 0 && <p className="mt-4">{PACKS.noPacksYet}</p>}
      <ul className="mt-4">
        {[...offered, ...kept].map((pack) => (
          <li key={pack.mark} className="border-hair border-t py-2" data-pack={pack.mark}>
            <div className="flex flex-wrap items-baseline gap-x-3">
              <strong>{pack.title}</strong>
              <span>version {pack.version}</span>
              {pack.away && <span className="text-faded">withdrawn</span>}
              <span className="ml-auto flex gap-3">
                <a className="word" href={packFile(pack.mark)}>
                  {PACKS.saveZip}
                </a>
                {designs && !pack.away && (
                  <button type="button" className="word" onClick={() => setLeaving(pack)}>
                    withdraw
                  </button>
                )}
              </span>
            </div>
            <p>
              <Said pack={pack} />
            </p>
            {pack.confirmed && (
              <p>
                {PACKS.confirmed} “{pack.confirmed}”
              </p>
            )}
            <p className="text-faded">
              {pack.jobs === 0 ? PACKS.noJobUses : `${pack.jobs} ${pack.jobs === 1 ? "job uses" : "jobs use"} it.`}
              {pack.by && pack.at && ` Added by ${pack.by}, ${dayOf(pack.at)}.`}{" "}
              <span className="figure">{pack.mark}</span>
            </p>
          </li>
        ))}
      </ul>
      <Rechecks />
      <Ask
        open={leaving !== null}
        title={`Withdraw “${leaving?.title}”?`}
        say={PACKS.newJobsCan}
        yes="withdraw it"
        onYes={() => leaving && away.mutate(leaving.mark)}
        onClose={() => setLeaving(null)}
      />
    </main>
  );
}

/** What a pack says of itself. */
function Said({ pack }: { pack: PackLine }) {
  return (
    <>
      Over {pack.over_title}, from {pack.source}.{" "}
      {pack.checked ? `Checked: ${pack.checked}.` : <span className="text-close">{PACKS.numbersNotStated}</span>}
      {pack.tables.length > 0 && ` Cells of ${pack.tables.join(", ")}.`}
      {pack.not_asked.length > 0 && (
        <span className="text-close">
          {" "}
          {PACKS.notRequired} {pack.not_asked.join(", ")}.
        </span>
      )}
      {pack.silent.length > 0 && ` Not known under it: ${pack.silent.join(", ")}.`}
    </>
  );
}

type Departure = NonNullable<PackLine["departure"]>;

/** How far a pack departs from its book, table by table, and what of it lies on the unsafe side. */
function Departs({ found }: { found: Departure }) {
  if (found.tables.length === 0 && found.otherwise.length === 0)
    return <p className="mt-2 text-faded">{PACKS.nothingChanged}</p>;
  return (
    <div className="mt-2" data-departs>
      <div className="overflow-x-auto">
        <table className="border-collapse">
          <caption className="text-left font-semibold">{PACKS.departs}</caption>
          <thead>
            <tr className="border-hair border-b text-left text-faded">
              {PACKS.departHeads.map((head) => (
                <th key={head} scope="col" className="pr-4 font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.tables.map((t) => (
              <tr key={t.table} className="border-hair border-b">
                <th scope="row" className="pr-4 text-left font-normal">
                  {t.table}
                </th>
                <td className="figure pr-4">
                  {t.changed} of {t.cells}
                </td>
                <td className="figure pr-4">
                  {t.least === null || t.most === null ? "–" : `${t.least.toFixed(2)} to ${t.most.toFixed(2)}`}
                </td>
                <td className={`figure pr-4 ${t.unsafe > 0 ? "text-short" : ""}`}>{t.unsafe}</td>
                <td className="figure">{t.added}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Cells title={PACKS.anotherUnit} cells={found.tens} />
      <Cells title={PACKS.unsafeSide} cells={found.unsafe} />
      <Cells title={PACKS.otherwise} cells={found.otherwise} />
      {found.bounds.length > 0 && (
        <>
          <p className="mt-2 font-semibold text-short">{PACKS.pastBounds}</p>
          <ul className="list-disc pl-5">
            {found.bounds.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

function Cells({ title, cells }: { title: string; cells: readonly string[] }) {
  if (cells.length === 0) return null;
  return (
    <>
      <p className="mt-2">{title}</p>
      <ul className="list-disc pl-5 text-faded">
        {cells.map((cell) => (
          <li key={cell}>{cell}</li>
        ))}
      </ul>
    </>
  );
}

/** Everything that is wrong, each with its place. */
function Wrong({ error }: { error: Error }) {
  const each = error instanceof ApiError ? error.refusal.errors : [];
  return (
    <section role="alert" className="mt-3" data-wrong>
      <p className="font-semibold text-short">{error.message}</p>
      {each.length > 0 && (
        <div className="overflow-x-auto">
          <table className="mt-1 w-full border-collapse">
            <thead>
              <tr className="border-hair border-b text-left text-faded">
                <th className="pr-3 font-normal">where</th>
                <th className="pr-3 font-normal">given</th>
                <th className="font-normal">allowed</th>
              </tr>
            </thead>
            <tbody className="align-top">
              {each.map((e) => (
                <tr key={`${e.field} ${e.given} ${e.allowed}`} className="border-hair border-b">
                  <th scope="row" className="py-1 pr-3 text-left font-normal">
                    {e.field}
                  </th>
                  <td className="figure max-w-60 break-words py-1 pr-3">{e.given}</td>
                  <td className="py-1">{e.allowed}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

/** A pack as it is sent: a zip whole, or the files that were chosen. */
async function packOf(files: readonly File[]): Promise<PackIn> {
  const [first] = files;
  if (files.length === 1 && first?.name.toLowerCase().endsWith(".zip")) {
    return { zip: base64(new Uint8Array(await first.arrayBuffer())), files: [], look: true, words: "" };
  }
  const each = await Promise.all(files.map(async (f) => ({ name: f.name, text: await f.text() })));
  return { zip: "", files: each, look: true, words: "" };
}
