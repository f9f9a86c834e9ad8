import { RovingFocus } from "radix-ui/internal";
import { useState } from "react";
import { Link } from "react-router";
import type { GlanceBar, GlanceRow } from "../../api/types";
import { usePaths } from "../../parts/paths";
import { Moved } from "../../ui/moved";
import { figure, glued, percent, shortFigure } from "../../ui/quantity";
import { Mark, TONE, WORDS } from "../../ui/verdict";
import { beforeSaid, GLANCE, used } from "./words";

/** The scale of a bar reaches this far past what is allowed; what is over it ends there. */
const REACH = 1.25;
const along = (share: number) => `${(Math.min(Math.max(share, 0), REACH) / REACH) * 100}%`;

interface Props {
  rows: readonly GlanceRow[];
  names: Map<string, string>;
}

/** A row for every circuit: amps, volts and loop as shares of what is allowed, then the verdict. Arrows move, Enter opens. */
export function Glance({ rows, names }: Props) {
  const paths = usePaths();
  const [byMargin, setByMargin] = useState(false);
  const order = byMargin ? [...rows].sort((a, b) => rank(a) - rank(b)) : rows;
  return (
    <section aria-labelledby="glance" className="mt-6">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <h2 id="glance" className="font-semibold text-xl">
          {GLANCE.title}
        </h2>
        <fieldset className="flex items-baseline gap-x-3">
          <legend className="sr-only">{GLANCE.sort}</legend>
          {[false, true].map((way) => (
            <label key={String(way)} className="flex min-h-8 items-center gap-x-1">
              <input type="radio" name="glance-order" checked={byMargin === way} onChange={() => setByMargin(way)} />
              {way ? GLANCE.byMargin : GLANCE.byTree}
            </label>
          ))}
        </fieldset>
        <Link to={paths.papers("glance")} className="word">
          {GLANCE.print}
        </Link>
      </div>
      {rows.length === 0 ? (
        <p className="mt-2 text-faded">{GLANCE.none}</p>
      ) : (
        <>
          <p className="mt-1 max-w-4xl text-faded text-sm">{Object.values(GLANCE.key).join(" ")}</p>
          <RovingFocus.Root orientation="vertical" asChild>
            <table className="mt-2 w-full table-fixed" data-glance>
              <colgroup>
                <col className="w-[27%] max-sm:w-[34%]" />
                <col className="w-[20%] max-sm:w-[40%]" />
                <col className="max-sm:hidden" />
                <col className="max-sm:hidden" />
                <col className="w-[19%] max-sm:w-[26%]" />
              </colgroup>
              <thead>
                <tr className="border-hair border-b text-left text-faded">
                  <th className="font-normal">{GLANCE.circuit}</th>
                  {(["amps", "volts", "loop"] as const).map((about) => (
                    <th key={about} className="font-normal max-sm:hidden">
                      {GLANCE.heads[about]}
                    </th>
                  ))}
                  <th className="font-normal sm:hidden">{GLANCE.nearest}</th>
                  <th className="font-normal">{GLANCE.verdict}</th>
                </tr>
              </thead>
              <tbody>
                {order.map((row) => (
                  <Row
                    key={row.circuit}
                    row={row}
                    name={names.get(row.circuit) ?? ""}
                    depth={byMargin ? 0 : row.depth}
                    to={paths.circuit(row.circuit)}
                  />
                ))}
              </tbody>
            </table>
          </RovingFocus.Root>
        </>
      )}
    </section>
  );
}

/** Where a circuit stands by its margin: fails first, then what is not known, then the least left. */
function rank(row: GlanceRow): number {
  if (row.verdict === "not_known") return -1e-6;
  if (row.verdict === "short") return Math.min(row.margin ?? -1e3, -1e-3);
  return Math.max(row.margin ?? 1e3, 0);
}

function Row({ row, name, depth, to }: { row: GlanceRow; name: string; depth: number; to: string }) {
  const told = row.margin !== null && row.verdict !== "not_known" && (row.verdict !== "short" || row.margin < 0);
  const nearest = row.bars.find((b) => b.about === row.worst);
  return (
    <tr className="border-hair border-b align-top hover:bg-lit" data-glance-row={row.circuit}>
      <th scope="row" className="py-1 pr-2 text-left font-normal" style={{ paddingLeft: `${depth * 1.1}rem` }}>
        <RovingFocus.Item asChild>
          <Link to={to} className="flex min-h-7 items-start gap-x-2 hover:underline">
            <span className="pt-0.5">
              <Mark verdict={row.verdict} />
            </span>
            <span className="line-clamp-2 break-words leading-tight">{name}</span>
          </Link>
        </RovingFocus.Item>
      </th>
      {row.bars.map((bar) => (
        <td key={bar.about} className="py-1 pr-4 max-sm:hidden">
          <Bar bar={bar} />
        </td>
      ))}
      <td className="py-1 pr-3 sm:hidden">{nearest ? <Bar bar={nearest} named /> : WORDS.not_known}</td>
      <td className={`py-1 ${TONE[row.verdict]}`}>
        <Moved value={`${row.verdict} ${row.margin}`}>
          {WORDS[row.verdict]}{" "}
          {told && row.margin !== null && (
            <span className="figure ml-1 whitespace-nowrap text-faded max-sm:ml-0 max-sm:block">
              {percent(row.margin)}
            </span>
          )}
          {row.verdict !== "meets" && row.ruling && (
            <span className="block text-ink text-sm leading-tight">{row.ruling}</span>
          )}
        </Moved>
      </td>
    </tr>
  );
}

/** A bar on its scale, with the figures under it. named: with what it is of, where no head says it. */
function Bar({ bar, named = false }: { bar: GlanceBar; named?: boolean }) {
  if (bar.used === null || bar.used === undefined)
    return (
      <span className="text-faded text-sm">{`${named ? `${GLANCE.names[bar.about]} ` : ""}${WORDS.not_known}`}</span>
    );
  const at = (name: string) => bar.marks.find((m) => m.name === name)?.share;
  const filled = bar.about === "amps" ? (at("Ib") ?? 0) : bar.used;
  const before = at("before") ?? 0;
  const tick = at("In") ?? at("measured");
  const said = used(GLANCE.names[bar.about], percentOf(bar.used)) + (before > 0 ? beforeSaid(percentOf(before)) : "");
  return (
    <>
      <span role="img" aria-label={said} className={`relative mt-1 block h-3.5 ${TONE[bar.verdict]}`}>
        <span className="absolute inset-x-0 top-1/2 border-hair border-t" />
        <span className="absolute inset-y-0.5 left-0 bg-current opacity-45" style={{ width: along(filled) }} />
        {before > 0 && (
          <span className="absolute inset-y-0.5 left-0 bg-current" style={{ width: along(Math.min(before, filled)) }} />
        )}
        {filled > 1 && (
          <span
            className="hatch absolute inset-y-0 border-current border-y-2"
            style={{ left: along(1), width: `calc(${along(filled)} - ${along(1)})` }}
          />
        )}
        {tick !== undefined && (
          <span className="-ml-px absolute inset-y-0 w-0.5 bg-current" style={{ left: along(tick) }} data-tick />
        )}
        <span className="-ml-px absolute -inset-y-0.5 w-0.5 bg-ink" style={{ left: along(1) }} />
      </span>
      <Moved
        value={figures(bar)}
        className={`figure block text-xs leading-tight ${named ? "" : "xl:whitespace-nowrap"}`}
      >
        {named && <span className="block font-sans text-faded">{GLANCE.names[bar.about]}</span>}
        {figures(bar)}
      </Moved>
    </>
  );
}

const percentOf = (share: number) => `${Math.round(share * 100)} %`;

/** Of amps Ib, In and Iz; else the value and its limit. */
function figures(bar: GlanceBar): string {
  const { value, limit, unit } = bar;
  if (bar.about === "amps") {
    const leg = bar.marks.some((m) => m.name === "leg");
    const told = ["Ib", "In", leg ? "leg" : "Iz"].map((name) => {
      const mark = bar.marks.find((m) => m.name === name);
      return mark ? figure(mark.value, unit) : "–";
    });
    return glued(`${told.join(" · ")} ${unit}${leg ? ` ${GLANCE.leg}` : ""}`);
  }
  const most = unit === "%" ? shortFigure(limit ?? 0) : figure(limit ?? 0, unit);
  return glued(`${figure(value ?? 0, unit)} of ${most} ${unit}`);
}
