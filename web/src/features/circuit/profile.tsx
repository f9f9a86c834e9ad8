import { scaleLinear } from "d3-scale";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useState } from "react";
import type { Profile } from "../../api/types";
import { figure, quantity } from "../../ui/quantity";
import { remembered } from "../../ui/remembered";
import { useWidth } from "../../ui/use-width";
import { AmpsLane, LANE, LoopLane, marginsOf, type Scale, VoltsLane } from "./lanes";
import { type Branch, Branches, Edges, type Point, Points, STRIP, STRIP_TOP, Strip } from "./strip";
import { Textures } from "./textures";
import { PROFILE } from "./words";

interface Props {
  /** Null while nothing can be drawn: what stands between keeps its place, and whatever is open in it stays open. */
  profile: Profile | null;
  selected: string | null;
  onSelect: (span: string) => void;
  /** A span's edge is being dragged to a new length [m]. */
  onDrag: (span: string, length: number) => void;
  onDrop: (span: string, length: number) => void;
  /** A drag was given up: Escape, or the pointer was taken away. */
  onCancel: () => void;
  /** The loads that stand on the run: where each is taken off [m from the board], null at the far point. */
  points: readonly Point[];
  onPoint: (load: string, at: number) => void;
  onPointDrag: (load: string, at: number) => void;
  /** What leaves from the boxes of the path that is drawn. */
  branches?: readonly Branch[];
  /** What stands between the strip and the lanes: the sentence of the chosen span. */
  children?: ReactNode;
}

/** The run drawn to scale from the origin to the far point, with its three lanes. All figures are the server's. */
export function SpanProfile(props: Props) {
  const {
    profile,
    selected,
    onSelect,
    onDrag,
    onDrop,
    onCancel,
    points,
    onPoint,
    onPointDrag,
    branches = [],
    children,
  } = props;
  const [box, width] = useWidth<HTMLElement>();
  const [probe, setProbe] = useState<number | null>(null);
  const [folded, fold] = useFolded();
  const end = profile?.stretches.at(-1)?.end ?? 0;
  const drawn = end > 0 ? profile : null;
  const { left, right, over, gap } = marginsOf(width);
  const x = scaleLinear([0, end], [left, Math.max(left + 80, width - right)]);
  const captions = STRIP_TOP + STRIP + (points.length > 0 ? 48 : 28);
  const rows = Math.max(0, ...branches.map((b) => branches.filter((o) => o.from === b.from).length));
  const strip = captions + rows * 22;
  const shown = LANES.filter((lane) => !folded.includes(lane.id));
  const tops = new Map(shown.map((lane, i) => [lane.id, 6 + over + i * (LANE + gap)]));
  const lanes = over + shown.length * (LANE + gap) + 26;
  const move = (at: number) => setProbe(Math.min(end, Math.max(0, at)));
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    move((probe ?? 0) + (step * end) / 40);
  };
  const onPointerMove = (event: PointerEvent<SVGSVGElement>) =>
    move(x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left));
  return (
    <figure ref={box} className={profile ? "m-0 mt-2" : "m-0"} aria-label={drawn ? "Span profile" : undefined}>
      {drawn ? (
        <>
          <svg
            width={width}
            height={strip}
            className="block touch-pan-y overflow-visible"
            aria-hidden="true"
            onPointerMove={onPointerMove}
            onPointerLeave={() => setProbe(null)}
          >
            <Textures />
            <Strip profile={drawn} x={x} selected={selected} onSelect={onSelect} lower={points.length > 0} />
            <Branches profile={drawn} x={x} branches={branches} y={captions + 14} onSelect={onSelect} />
            {probe !== null && <Probe x={x(probe)} from={STRIP_TOP} to={strip} />}
            <Edges profile={drawn} x={x} onDrag={onDrag} onDrop={onDrop} onCancel={onCancel} />
            <Points profile={drawn} x={x} points={points} onDrag={onPointDrag} onDrop={onPoint} onCancel={onCancel} />
          </svg>
          <div className="sr-only">
            <table>
              <caption>{PROFILE.runSpanSpan}</caption>
              <thead>
                <tr>
                  <th>span</th>
                  <th>length</th>
                  <th>method</th>
                  <th>Iz</th>
                </tr>
              </thead>
              <tbody>
                {drawn.stretches.map((s) => (
                  <tr key={s.span}>
                    <td>{s.name}</td>
                    <td>{quantity(s.end - s.start, "m")}</td>
                    <td>{s.method || "not known"}</td>
                    <td>{s.iz === null ? "not known" : quantity(s.iz, "A")}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      ) : (
        profile && <p className="border-hair border-y py-8 text-faded">{PROFILE.cableRunDrawn}</p>
      )}
      {children}
      {drawn && (
        <>
          <div className="no-print mt-1 flex flex-wrap items-baseline gap-x-4">
            {LANES.map((lane) => (
              <button
                key={lane.id}
                type="button"
                aria-expanded={!folded.includes(lane.id)}
                className="min-h-7 text-faded hover:bg-lit"
                onClick={() => fold(lane.id)}
              >
                <span aria-hidden="true">{folded.includes(lane.id) ? "▸" : "▾"}</span> {lane.title}
              </button>
            ))}
            <span className="figure ml-auto min-h-6 text-faded" aria-hidden={probe === null}>
              {probe === null ? reachText(drawn) : readOff(drawn, probe)}
            </span>
          </div>
          <div
            role="slider"
            tabIndex={0}
            aria-label={PROFILE.readProfileAlong}
            aria-valuemin={0}
            aria-valuemax={Number(end.toFixed(1))}
            aria-valuenow={Number((probe ?? 0).toFixed(1))}
            aria-valuetext={readOff(drawn, probe ?? 0)}
            onKeyDown={onKeyDown}
            onBlur={() => setProbe(null)}
          >
            <svg
              width={width}
              height={lanes}
              className="block touch-pan-y overflow-visible"
              aria-hidden="true"
              onPointerMove={onPointerMove}
              onPointerLeave={() => setProbe(null)}
            >
              {tops.has("amps") && <AmpsLane profile={drawn} x={x} top={tops.get("amps") ?? 0} />}
              {tops.has("volts") && <VoltsLane profile={drawn} x={x} top={tops.get("volts") ?? 0} />}
              {tops.has("loop") && <LoopLane profile={drawn} x={x} top={tops.get("loop") ?? 0} />}
              <Metres end={end} own={drawn.own_from} x={x} y={lanes - 4} />
              {probe !== null && <Probe x={x(probe)} from={0} to={lanes - 26} />}
            </svg>
          </div>
        </>
      )}
    </figure>
  );
}

const LANES = [
  { id: "amps", title: "Current" },
  { id: "volts", title: "Volt drop" },
  { id: "loop", title: "Earth loop" },
] as const;
type LaneId = (typeof LANES)[number]["id"];
const FOLD_KEY = "mellow-span/lanes-folded";

/** Which lanes are folded away, remembered in this browser. */
function useFolded() {
  const [folded, setFolded] = useState<readonly LaneId[]>(() => {
    const kept = remembered.get(FOLD_KEY)?.split(",") ?? [];
    return LANES.map((l) => l.id).filter((id) => kept.includes(id));
  });
  const fold = (id: LaneId) => {
    const now = folded.includes(id) ? folded.filter((f) => f !== id) : [...folded, id];
    remembered.set(FOLD_KEY, now.join(","));
    setFolded(now);
  };
  return [folded, fold] as const;
}

function Probe({ x, from, to }: { x: number; from: number; to: number }) {
  return <path d={`M${x} ${from}V${to}`} stroke="var(--faded)" strokeDasharray="1 3" pointerEvents="none" />;
}

function Metres({ end, own, x, y }: { end: number; own: number; x: Scale; y: number }) {
  const room = x(end) - x(0);
  const marks = x.ticks(Math.max(1, Math.floor(room / 70))).filter((t) => x(end) - x(t) > 70);
  return (
    <g className="figure fill-faded text-[15px]">
      <path d={`M${x(0)} ${y - 18}H${x(end)}`} stroke="var(--faded)" />
      {marks.map((t) => (
        <text key={t} x={x(t)} y={y} textAnchor={t === 0 ? "start" : "middle"}>
          {t}
        </text>
      ))}
      <text x={x(end)} y={y} textAnchor="end">
        {quantity(end, "m")}
      </text>
      {own > 0 && <path d={`M${x(own)} 0V${y - 18}`} stroke="var(--ink)" strokeDasharray="2 4" />}
    </g>
  );
}

/** Handles on the edges of this circuit's own spans. */
function between(profile: Profile, at: number, pick: (p: Profile["points"][number]) => number | null): number | null {
  const points = profile.points.filter((p) => pick(p) !== null);
  const after = points.findIndex((p) => p.at >= at - 1e-9);
  const b = points[after];
  const a = points[Math.max(0, after - 1)];
  if (!a || !b) return null;
  const [va, vb] = [pick(a) as number, pick(b) as number];
  return b.at === a.at ? vb : va + ((vb - va) * (at - a.at)) / (b.at - a.at);
}

/** What the drawn lines say at a point: read off the figures on either side, as a finger on the page would. */
function readOff(profile: Profile, at: number): string {
  const here = profile.stretches.find((s) => at <= s.end + 1e-9);
  const drop = between(profile, at, (p) => p.drop);
  const volts = between(profile, at, (p) => p.volts);
  const zs = between(profile, at, (p) => p.zs);
  return [
    `at ${quantity(at, "m")}`,
    here && `${here.name}${here.iz === null ? "" : `, Iz ${quantity(here.iz, "A")}`}`,
    drop !== null &&
      `${figure(drop, "%")} % volt drop${volts === null ? "" : `, ${quantity(volts, "V")} at this point`}`,
    zs !== null && `Zs ${figure(zs, "Ω")} Ω`,
  ]
    .filter(Boolean)
    .join(" · ");
}

function reachText(profile: Profile): string {
  const told = [
    profile.reach_drop !== null && `${profile.reach_drop.toFixed(1)} m for volt drop`,
    profile.reach_zs !== null && `${profile.reach_zs.toFixed(1)} m for Zs`,
  ].filter(Boolean);
  return told.length > 0 ? `Reach ${told.join(", ")}` : "";
}
