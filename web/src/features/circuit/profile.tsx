import { scaleLinear } from "d3-scale";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import type { Profile, Stretch } from "../../api/types";
import { figure, quantity } from "../../ui/quantity";
import { useWidth } from "../../ui/use-width";
import { AmpsLane, LANE, LoopLane, marginsOf, type Scale, VoltsLane } from "./lanes";
import { fillOf, Textures } from "./textures";

const STRIP = 46;
const STRIP_TOP = 24;

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
  /** What stands between the strip and the lanes: the sentence of the chosen span. */
  children?: ReactNode;
}

/** A load as it stands on the strip. */
export interface Point {
  id: string;
  name: string;
  at: number | null;
  spur: boolean;
}

/** The run drawn to scale from the origin to the far point, with its three lanes. All figures are the server's. */
export function SpanProfile(props: Props) {
  const { profile, selected, onSelect, onDrag, onDrop, onCancel, points, onPoint, onPointDrag, children } = props;
  const [box, width] = useWidth<HTMLElement>();
  const [probe, setProbe] = useState<number | null>(null);
  const [folded, fold] = useFolded();
  const end = profile?.stretches.at(-1)?.end ?? 0;
  const drawn = end > 0 ? profile : null;
  const { left, right, over, gap } = marginsOf(width);
  const x = scaleLinear([0, end], [left, Math.max(left + 80, width - right)]);
  const strip = STRIP_TOP + STRIP + (points.length > 0 ? 48 : 28);
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
            {probe !== null && <Probe x={x(probe)} from={STRIP_TOP} to={strip} />}
            <Edges profile={drawn} x={x} onDrag={onDrag} onDrop={onDrop} onCancel={onCancel} />
            <Points profile={drawn} x={x} points={points} onDrag={onPointDrag} onDrop={onPoint} onCancel={onCancel} />
          </svg>
          <table className="sr-only">
            <caption>The run, span by span</caption>
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
        </>
      ) : (
        profile && (
          <p className="border-hair border-y py-8 text-faded">
            The run appears here, drawn to scale, once every span has a length.
          </p>
        )
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
            aria-label="Read the profile along the run"
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
  { id: "amps", title: "Amps" },
  { id: "volts", title: "Volts" },
  { id: "loop", title: "Loop" },
] as const;
type LaneId = (typeof LANES)[number]["id"];
const FOLD_KEY = "mellow-span/lanes-folded";

/** Which lanes are folded away, remembered in this browser. */
function useFolded() {
  const [folded, setFolded] = useState<readonly LaneId[]>(() => {
    const kept = localStorage.getItem(FOLD_KEY)?.split(",") ?? [];
    return LANES.map((l) => l.id).filter((id) => kept.includes(id));
  });
  const fold = (id: LaneId) => {
    const now = folded.includes(id) ? folded.filter((f) => f !== id) : [...folded, id];
    localStorage.setItem(FOLD_KEY, now.join(","));
    setFolded(now);
  };
  return [folded, fold] as const;
}

function Probe({ x, from, to }: { x: number; from: number; to: number }) {
  return <path d={`M${x} ${from}V${to}`} stroke="var(--faded)" strokeDasharray="1 3" pointerEvents="none" />;
}

function Strip({
  profile,
  x,
  selected,
  onSelect,
  lower,
}: { profile: Profile; x: Scale; lower: boolean } & Pick<Props, "selected" | "onSelect">) {
  const bottom = STRIP_TOP + STRIP;
  return (
    <g>
      {profile.stretches.map((s) => {
        const left = x(s.start);
        const wide = x(s.end) - left;
        const governs = s.span === profile.governing && profile.iz_needed !== null && (s.iz ?? 0) < profile.iz_needed;
        const chosen = s.span === selected;
        return (
          <g key={s.span} onPointerDown={() => onSelect(s.span)} className="cursor-pointer">
            <title>{`${s.name}: ${quantity(s.end - s.start, "m")}, method ${s.method || "not known"}`}</title>
            <rect x={left} y={STRIP_TOP} width={wide} height={STRIP} fill="var(--leaf)" />
            <g className="text-faded/60">
              <rect x={left} y={STRIP_TOP} width={wide} height={STRIP} fill={fillOf(s.look)} />
            </g>
            <rect
              x={left}
              y={STRIP_TOP}
              width={wide}
              height={STRIP}
              fill="none"
              stroke={governs ? "var(--short)" : "var(--faded)"}
              strokeWidth={governs ? 2.5 : 1}
            />
            {chosen && <path d={`M${left} ${bottom + 4}H${left + wide}`} stroke="var(--copper)" strokeWidth="4" />}
            <Caption text={s.name} x={left} wide={wide} y={STRIP_TOP - 8} />
            <Caption text={underSpan(s, wide)} x={left} wide={wide} y={bottom + (lower ? 42 : 22)} figures />
          </g>
        );
      })}
      <path
        d={`M${x(0)} ${STRIP_TOP + STRIP / 2}H${x.range()[1]}`}
        stroke="var(--copper)"
        strokeWidth="3"
        pointerEvents="none"
      />
    </g>
  );
}

/** Method and length under a span; the length alone where both do not fit. */
function underSpan(s: Stretch, wide: number): string {
  const length = quantity(s.end - s.start, "m");
  const both = s.method ? `${s.method} · ${length}` : length;
  return both.length * 8.6 + 4 <= wide ? both : length;
}

/** Text over a span if it fits there; the whole of it stands in the title and the span line either way. */
function Caption({
  text,
  x,
  wide,
  y,
  figures,
}: {
  text: string;
  x: number;
  wide: number;
  y: number;
  figures?: boolean;
}) {
  const letters = Math.floor((wide - 4) / (figures ? 8.6 : 7.3));
  if (letters < 4) return null;
  const short = text.length > letters ? `${text.slice(0, Math.max(3, letters - 1)).trimEnd()}…` : text;
  if (figures && short !== text) return null;
  return (
    <text x={x + wide / 2} y={y} textAnchor="middle" className={`fill-faded text-[15px] ${figures ? "figure" : ""}`}>
      {short}
    </text>
  );
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
/** Escape gives a drag up, wherever the focus is. */
function useEscape(cancel: () => void) {
  const stop = useRef(cancel);
  stop.current = cancel;
  useEffect(() => {
    const onKeyDown = (event: globalThis.KeyboardEvent) => event.key === "Escape" && stop.current();
    globalThis.addEventListener("keydown", onKeyDown);
    return () => globalThis.removeEventListener("keydown", onKeyDown);
  }, []);
}

function Edges({
  profile,
  x,
  onDrag,
  onDrop,
  onCancel,
}: { profile: Profile; x: Scale } & Pick<Props, "onDrag" | "onDrop" | "onCancel">) {
  const drag = useRef<{ span: string; from: number; length: number; scale: number; now: number } | null>(null);
  const cancel = () => {
    if (!drag.current) return;
    drag.current = null;
    onCancel();
  };
  useEscape(cancel);
  const own = profile.stretches.filter((s) => s.start >= profile.own_from - 1e-9);
  const lengthAt = (clientX: number) => {
    const d = drag.current;
    if (!d) return 0.1;
    return Math.max(0.1, Math.round((d.length + (clientX - d.from) * d.scale) * 10) / 10);
  };
  return (
    <g>
      {own.map((s) => (
        <rect
          key={s.span}
          data-edge={s.span}
          x={x(s.end) - 6}
          y={STRIP_TOP - 4}
          width={12}
          height={STRIP + 8}
          fill="transparent"
          className="cursor-ew-resize touch-none"
          onPointerDown={(event) => {
            event.stopPropagation();
            event.currentTarget.setPointerCapture(event.pointerId);
            const scale = x.invert(1) - x.invert(0);
            drag.current = { span: s.span, from: event.clientX, length: s.end - s.start, scale, now: s.end - s.start };
          }}
          onPointerMove={(event) => {
            if (drag.current?.span !== s.span) return;
            const length = lengthAt(event.clientX);
            if (length === drag.current.now) return;
            drag.current.now = length;
            onDrag(s.span, length);
          }}
          onPointerUp={(event) => {
            if (drag.current?.span !== s.span) return;
            const length = lengthAt(event.clientX);
            const moved = Math.abs(event.clientX - drag.current.from) > 2;
            drag.current = null;
            if (moved) onDrop(s.span, length);
            else onCancel();
          }}
          onPointerCancel={cancel}
        >
          <title>Drag to change the length of {s.name}</title>
        </rect>
      ))}
    </g>
  );
}

interface PointsProps extends Pick<Props, "points" | "onCancel"> {
  profile: Profile;
  x: Scale;
  onDrag: Props["onPointDrag"];
  onDrop: Props["onPoint"];
}

/** Where loads are taken off: a peg under the strip with its name, dragged along the run; a spur of a ring hangs on a stub. */
function Points({ profile, x, points, onDrag, onDrop, onCancel }: PointsProps) {
  // from: where it stood when it was taken hold of; while it is tried out the page already shows it elsewhere.
  const drag = useRef<{ id: string; from: number; now: number } | null>(null);
  const cancel = () => {
    if (!drag.current) return;
    drag.current = null;
    onCancel();
  };
  useEscape(cancel);
  const end = profile.stretches.at(-1)?.end ?? 0;
  const run = end - profile.own_from;
  const bottom = STRIP_TOP + STRIP;
  const at = (event: PointerEvent<SVGGElement>) => {
    const left = event.currentTarget.ownerSVGElement?.getBoundingClientRect().left ?? 0;
    return Math.min(run, Math.max(0, Math.round((x.invert(event.clientX - left) - profile.own_from) * 10) / 10));
  };
  return (
    <g>
      {points.map((p) => {
        // Pegs at one place share a label, on the first of them.
        const same = points.filter((o) => (o.at ?? run) === (p.at ?? run));
        const name = same[0]?.id === p.id ? same.map((o) => o.name).join(", ") : "";
        const place = x(profile.own_from + Math.min(p.at ?? run, run));
        return (
          <g
            key={p.id}
            data-point={p.id}
            className="cursor-ew-resize touch-none"
            onPointerDown={(event) => {
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              drag.current = { id: p.id, from: p.at ?? run, now: p.at ?? run };
            }}
            onPointerMove={(event) => {
              if (drag.current?.id !== p.id) return;
              const now = at(event);
              if (now === drag.current.now) return;
              drag.current.now = now;
              onDrag(p.id, now);
            }}
            onPointerUp={(event) => {
              if (drag.current?.id !== p.id) return;
              const to = at(event);
              const moved = to !== drag.current.from;
              drag.current = null;
              if (moved) onDrop(p.id, to);
              else onCancel();
            }}
            onPointerCancel={cancel}
          >
            <title>{`${p.name}, ${p.at === null ? "at the far point" : `taken off at ${quantity(p.at, "m")}`}: drag to move it`}</title>
            <rect x={place - 10} y={bottom} width="20" height="28" fill="transparent" />
            <path
              d={`M${place} ${bottom - STRIP / 2}V${bottom + (p.spur ? 14 : 10)}`}
              stroke="var(--copper)"
              strokeWidth="2"
            />
            {p.spur ? (
              <path
                d={`M${place - 6} ${bottom + 14}h12v9h-12z`}
                fill="var(--paper)"
                stroke="var(--copper)"
                strokeWidth="2"
              />
            ) : (
              <circle cx={place} cy={bottom + 15} r="5.5" fill="var(--copper)" />
            )}
            <text
              x={place > x(end) - 60 ? place - 10 : place + 10}
              y={bottom + 21}
              textAnchor={place > x(end) - 60 ? "end" : "start"}
              className="fill-ink text-[15px]"
            >
              {name.length > 22 ? `${name.slice(0, 21)}…` : name}
            </text>
          </g>
        );
      })}
    </g>
  );
}

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
    drop !== null && `${figure(drop, "%")} % lost${volts === null ? "" : `, ${quantity(volts, "V")} left`}`,
    zs !== null && `Zs ${figure(zs, "Ω")} Ω`,
  ]
    .filter(Boolean)
    .join(" · ");
}

function reachText(profile: Profile): string {
  const told = [
    profile.reach_drop !== null && `${profile.reach_drop.toFixed(1)} m by volt drop`,
    profile.reach_zs !== null && `${profile.reach_zs.toFixed(1)} m by loop`,
  ].filter(Boolean);
  return told.length > 0 ? `Reach ${told.join(", ")}` : "";
}
