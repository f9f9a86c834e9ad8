import { useState } from "react";
import type { CircuitTests, SiteTest } from "../../api/site";
import type { OnSite } from "../../parts/use-site-log";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { readFigure } from "./reading-text";
import type { Kit } from "./test-row";
import { ELSEWHERE } from "./words";

const YES_NO = ["polarity", "button", "rotation", "functional", "tight"];

interface Props {
  found: CircuitTests;
  kit: Kit;
  site: OnSite;
  /** The supply may be put on: until then nothing that needs it is asked. */
  live: boolean;
}

/** A reading at a point that the design does not know: an outlet nobody entered, a joint that was found. */
export function Elsewhere({ found, kit, site, live }: Props) {
  const kinds = new Map<string, SiteTest>();
  for (const test of found.tests) if ((live || !test.live) && !kinds.has(test.quantity)) kinds.set(test.quantity, test);
  const [chosen, setQuantity] = useState(found.tests[0]?.quantity ?? "r1r2");
  const [point, setPoint] = useTyped(`point/${found.circuit}`);
  const [text, setText] = useTyped(`reading/${found.circuit}`);
  const [why, setWhy] = useState("");
  const test = kinds.get(chosen) ?? [...kinds.values()][0];
  const quantity = test?.quantity ?? chosen;
  const yesNo = YES_NO.includes(quantity);
  const write = (read: { value?: number; ok?: boolean; over?: boolean }) => {
    if (point.trim() === "") return setWhy(ELSEWHERE.enterWhereTaken);
    if (read.value === undefined && read.ok === undefined && !read.over)
      return setWhy(`A figure from 0 to 1 000 000 ${test?.unit ?? ""} is needed.`);
    setWhy("");
    setText("");
    site.write({
      kind: "reading",
      subject: found.circuit,
      data: {
        quantity,
        value: read.value ?? null,
        over: read.over ?? false,
        ok: read.ok ?? null,
        point: point.trim(),
        temperature: kit.temperature,
        volts: quantity.startsWith("ir_") ? (test?.volts ?? null) : null,
        instrument: kit.instrument,
        serial: kit.serial,
        checked: kit.checked,
        note: "at a point not in the design",
      },
    });
  };
  const typed = () => {
    write(readFigure(text) ?? {});
  };
  return (
    <form
      className="no-print mt-5 max-w-3xl"
      aria-label={ELSEWHERE.testAnotherPoint}
      onSubmit={(event) => {
        event.preventDefault();
        if (!yesNo) typed();
      }}
    >
      <h3 className="font-semibold text-lg">{ELSEWHERE.anotherPoint}</h3>
      <p className="text-faded">{ELSEWHERE.pointNotDesign}</p>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <label>
          <span className="block text-faded">what</span>
          <select
            className={`${inputClass} mt-1 min-h-11`}
            value={quantity}
            onChange={(event) => setQuantity(event.target.value as SiteTest["quantity"])}
          >
            {[...kinds.values()].map((t) => (
              <option key={t.quantity} value={t.quantity}>
                {t.title}
              </option>
            ))}
          </select>
        </label>
        <label className="min-w-48 flex-1">
          <span className="block text-faded">where</span>
          <input
            className={`${inputClass} mt-1 min-h-11`}
            maxLength={200}
            value={point}
            onChange={(event) => setPoint(event.target.value)}
          />
        </label>
        {yesNo ? (
          <>
            <Button className="min-h-11 min-w-16" onClick={() => write({ ok: true })}>
              yes
            </Button>
            <Button className="min-h-11 min-w-16" onClick={() => write({ ok: false })}>
              no
            </Button>
          </>
        ) : (
          <>
            <label>
              <span className="block text-faded">{test?.unit || "figure"}</span>
              <input
                className={`${inputClass} figure mt-1 min-h-11 w-24!`}
                inputMode="decimal"
                autoComplete="off"
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
            </label>
            <Button type="submit" className="min-h-11">
              save
            </Button>
            <Button className="min-h-11" title={ELSEWHERE.overInstrumentsRange} onClick={() => write({ over: true })}>
              {quantity.startsWith("rcd_") ? "no trip" : "over"}
            </Button>
          </>
        )}
      </div>
      {why && (
        <p role="alert" className="mt-1 text-short">
          {why}
        </p>
      )}
    </form>
  );
}
