import { scaleLinear } from "d3-scale";
import type { Profile, Stretch } from "../../api/types";
import { figure, quantity } from "../../ui/quantity";
import { type Line, spread } from "./labels";
import { LANES } from "./words";

/** The three lanes over a run: amps stepped by span, volts lost, loop impedance climbing. All figures are the server's. */

export const LANE = 92;
export type Scale = ReturnType<typeof scaleLinear<number, number>>;

/** Room beside the run [px]: what a lane is called stands at the left, or over it where the page is narrow; figures stand at the right. */
export const marginsOf = (width: number) =>
  width < 560 ? { left: 46, right: 122, over: 22, gap: 46 } : { left: 116, right: 138, over: 0, gap: 26 };

const leftOf = (x: Scale) => x.range()[0] as number;

interface LaneProps {
  title: string;
  unit: string;
  top: number;
  ticks: number[];
  x: Scale;
  y: Scale;
}

function Lane({ title, unit, top, ticks, x, y }: LaneProps) {
  const narrow = leftOf(x) < 100;
  return (
    <g>
      <text x={0} y={narrow ? top - 8 : top + 14} className="fill-ink font-semibold text-[15px]">
        {title}
        {narrow && <tspan className="fill-faded font-normal">{` ${unit}`}</tspan>}
      </text>
      {!narrow && (
        <text x={0} y={top + 33} className="fill-faded text-[15px]">
          {unit}
        </text>
      )}
      {ticks.map((t) => (
        <text key={t} x={leftOf(x) - 6} y={y(t) + 5} textAnchor="end" className="figure fill-faded text-[15px]">
          {Number(t.toPrecision(6))}
        </text>
      ))}
    </g>
  );
}

function Labels({ lines, left, top }: { lines: Line[]; left: number; top: number }) {
  return (
    <g>
      {spread(lines, top, top + LANE, 18).map((l) => (
        <g key={l.text}>
          <path d={`M${left + 2} ${l.from}L${left + 10} ${l.y}`} stroke="var(--hair)" />
          <text x={left + 13} y={l.y + 5} className="figure text-[15px]" fill={l.tone}>
            {l.text}
          </text>
        </g>
      ))}
    </g>
  );
}

const level = (x: Scale, from: number, y: number) => `M${x(from)} ${y}H${x.range()[1]}`;

export function AmpsLane({ profile, x, top }: { profile: Profile; x: Scale; top: number }) {
  const own = profile.stretches.filter((s) => s.start >= profile.own_from - 1e-9);
  const last = own.at(-1);
  const needed = profile.iz_needed;
  const levels = profile.stretches.flatMap((s) => [s.iz, s.ib, s.rating]).filter((v) => v !== null);
  if (levels.length === 0) return null;
  const low = Math.min(...levels, needed ?? Number.POSITIVE_INFINITY);
  const y = scaleLinear([low * 0.75, Math.max(...levels) * 1.06], [top + LANE, top]);
  const least = Math.min(...own.map((s) => s.iz ?? Number.POSITIVE_INFINITY));
  const right = x.range()[1] as number;
  const lines: Line[] = [];
  if (last?.rating != null)
    lines.push({ text: `In ${quantity(last.rating, "A")}`, from: y(last.rating), tone: "var(--copper)" });
  if (last?.ib != null) lines.push({ text: `Ib ${quantity(last.ib, "A")}`, from: y(last.ib), tone: "var(--faded)" });
  if (needed !== null && needed !== last?.rating)
    lines.push({ text: `leg ${quantity(needed, "A")}`, from: y(needed), tone: "var(--copper)" });
  const short = needed !== null && least < needed;
  if (Number.isFinite(least))
    lines.push({ text: `Iz ${quantity(least, "A")}`, from: y(least), tone: short ? "var(--short)" : "var(--ink)" });
  return (
    <g>
      <Lane title={LANES.current} unit={LANES.izSpan} top={top} ticks={y.ticks(4)} x={x} y={y} />
      {needed !== null &&
        own.map(
          (s) =>
            s.iz !== null &&
            s.iz < needed && (
              <rect
                key={s.span}
                x={x(s.start)}
                width={x(s.end) - x(s.start)}
                y={y(needed)}
                height={y(s.iz) - y(needed)}
                fill="url(#shortfall)"
              />
            ),
        )}
      {last?.ib != null && (
        <path d={level(x, profile.own_from, y(last.ib))} stroke="var(--faded)" strokeDasharray="5 4" />
      )}
      {last?.rating != null && (
        <path d={level(x, profile.own_from, y(last.rating))} stroke="var(--copper)" strokeWidth="2" />
      )}
      {needed !== null && needed !== last?.rating && (
        <path d={level(x, profile.own_from, y(needed))} stroke="var(--copper)" strokeDasharray="2 3" strokeWidth="2" />
      )}
      <path d={steps(profile.stretches, x, y)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      <Labels lines={lines} left={right} top={top} />
    </g>
  );
}

/** The stepped line of Iz; a span without a capacity leaves a gap. */
function steps(stretches: readonly Stretch[], x: Scale, y: Scale): string {
  let path = "";
  let pen = false;
  for (const s of stretches) {
    if (s.iz === null) {
      pen = false;
      continue;
    }
    path += `${pen ? "L" : "M"}${x(s.start)} ${y(s.iz)}L${x(s.end)} ${y(s.iz)}`;
    pen = true;
  }
  return path;
}

function trace(profile: Profile, x: Scale, y: Scale, pick: (p: Profile["points"][number]) => number | null): string {
  let path = "";
  for (const p of profile.points) {
    const value = pick(p);
    if (value !== null) path += `${path ? "L" : "M"}${x(p.at)} ${y(value)}`;
  }
  return path;
}

export function VoltsLane({ profile, x, top }: { profile: Profile; x: Scale; top: number }) {
  const most = Math.max(0, ...profile.points.map((p) => p.drop ?? 0));
  const worst = profile.points.find((p) => p.drop === most);
  if (!worst || worst.drop === null || profile.drop_limit === null)
    return <Empty title={LANES.voltDrop} unit="% so far" top={top} x={x} />;
  const limit = profile.drop_limit;
  const y = scaleLinear([0, Math.max(most, limit) * 1.08], [top, top + LANE]);
  const short = most > limit;
  const reach = profile.reach_drop === null ? null : profile.own_from + profile.reach_drop;
  const end = profile.stretches.at(-1)?.end ?? 0;
  return (
    <g>
      <Lane title={LANES.voltDrop} unit="% so far" top={top} ticks={y.ticks(3)} x={x} y={y} />
      <path d={level(x, 0, y(limit))} stroke="var(--copper)" strokeWidth="2" />
      <path d={trace(profile, x, y, (p) => p.drop)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      {short && reach !== null && reach < end && (
        <path d={`M${x(reach)} ${y(limit) - 12}V${y(limit) + 8}`} stroke="var(--short)" strokeWidth="3" />
      )}
      <Labels
        left={x.range()[1] as number}
        top={top}
        lines={[
          { text: `limit ${figure(limit, "%")} %`, from: y(limit), tone: "var(--copper)" },
          { text: `${figure(most, "%")} %`, from: y(most), tone: short ? "var(--short)" : "var(--ink)" },
          { text: worst.volts === null ? "" : quantity(worst.volts, "V"), from: y(most), tone: "var(--faded)" },
        ].filter((l) => l.text !== "")}
      />
    </g>
  );
}

export function LoopLane({ profile, x, top }: { profile: Profile; x: Scale; top: number }) {
  const most = Math.max(0, ...profile.points.map((p) => p.zs ?? 0));
  if (most === 0) return <Empty title={LANES.earthLoop} unit="Zs, Ω" top={top} x={x} />;
  const limit = profile.zs_limit;
  const reading = profile.zs_reading_limit;
  // A limit far above would press the line flat: then it is named in the margin and lies above the lane.
  const shown = limit !== null && limit < most * 3 ? limit : null;
  const y = scaleLinear([0, Math.max(most, shown ?? 0) * 1.12], [top + LANE, top]);
  const lines: Line[] = [
    {
      text: `Zs ${figure(most, "Ω")}`,
      from: y(most),
      tone: limit !== null && most > limit ? "var(--short)" : "var(--ink)",
    },
  ];
  if (limit !== null)
    lines.push({
      text: `max ${figure(limit, "Ω")}${shown === null ? " ↑" : ""}`,
      from: shown === null ? top : y(limit),
      tone: "var(--copper)",
    });
  if (reading !== null && shown !== null)
    lines.push({ text: `80 % ${figure(reading, "Ω")}`, from: y(reading), tone: "var(--faded)" });
  return (
    <g>
      <Lane title={LANES.earthLoop} unit="Zs, Ω" top={top} ticks={y.ticks(3)} x={x} y={y} />
      {shown !== null && limit !== null && (
        <path d={level(x, profile.own_from, y(limit))} stroke="var(--copper)" strokeWidth="2" />
      )}
      {shown !== null && reading !== null && (
        <path d={level(x, profile.own_from, y(reading))} stroke="var(--faded)" strokeDasharray="5 4" />
      )}
      <path d={trace(profile, x, y, (p) => p.zs)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      <Labels left={x.range()[1] as number} top={top} lines={lines} />
    </g>
  );
}

function Empty({ title, unit, top, x }: Omit<LaneProps, "ticks" | "y">) {
  return (
    <g>
      <Lane title={title} unit={unit} top={top} ticks={[]} x={x} y={scaleLinear()} />
      <text x={leftOf(x)} y={top + 14} className="fill-faded text-[15px]">
        {LANES.notKnownYet}
      </text>
    </g>
  );
}
