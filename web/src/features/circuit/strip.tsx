import { type PointerEvent, useEffect, useRef } from "react";
import type { Profile, Stretch } from "../../api/types";
import { quantity } from "../../ui/quantity";
import type { Scale } from "./lanes";
import { fillOf } from "./textures";

/** The run itself, drawn to scale: its spans, their edges and the loads on it, the last two dragged. */

export const STRIP = 46;
export const STRIP_TOP = 24;

/** A load as it stands on the strip. */
export interface Point {
  id: string;
  name: string;
  at: number | null;
  spur: boolean;
  /** Stands at the end of a span, and is moved by saying at which. */
  fixed?: boolean;
}

interface StripProps {
  profile: Profile;
  x: Scale;
  selected: string | null;
  onSelect: (span: string) => void;
  /** Whether pegs stand under it: then its captions stand lower. */
  lower: boolean;
}

/** The spans beside each other, each by its surroundings; the one that throttles stands in red, the chosen one is underlined. */
export function Strip({ profile, x, selected, onSelect, lower }: StripProps) {
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
      {profile.stretches.map(
        (s) =>
          s.cable && (
            <rect
              key={s.span}
              x={x(s.start) - 5}
              y={STRIP_TOP + STRIP / 2 - 5}
              width={10}
              height={10}
              fill="var(--copper)"
              stroke="var(--paper)"
              data-joint={s.span}
            >
              <title>{`from here ${s.cable}`}</title>
            </rect>
          ),
      )}
    </g>
  );
}

/** A branch that leaves the path that is drawn: after which span, and what it is called. */
export interface Branch {
  span: string;
  from: string;
  name: string;
}

/** What leaves from the boxes of the path that is drawn, as tags under it; pressed, the path along the branch is drawn. */
export function Branches({ profile, x, branches, y, onSelect }: BranchesProps) {
  return (
    <g>
      {profile.stretches.flatMap((s) => {
        const here = branches.filter((b) => b.from === s.span);
        const at = x(s.end);
        const end = at > (x.range()[1] ?? at) - 90;
        return here.map((b, i) => (
          <g key={b.span} data-branch={b.span} className="cursor-pointer" onPointerDown={() => onSelect(b.span)}>
            <title>{`branch to ${b.name}: draw the path along it`}</title>
            <path
              d={`M${at} ${STRIP_TOP + STRIP / 2}V${y + i * 22 - 4}H${at + (end ? -8 : 8)}`}
              fill="none"
              stroke="var(--copper)"
              strokeWidth="2"
            />
            <text
              x={at + (end ? -12 : 12)}
              y={y + i * 22}
              textAnchor={end ? "end" : "start"}
              className="fill-ink text-[15px] underline"
            >
              {b.name}
            </text>
          </g>
        ));
      })}
    </g>
  );
}

interface BranchesProps {
  profile: Profile;
  x: Scale;
  branches: readonly Branch[];
  y: number;
  onSelect: (span: string) => void;
}

/** Method, length and another cable under a span; the length alone where both do not fit. */
function underSpan(s: Stretch, wide: number): string {
  const length = quantity(s.end - s.start, "m");
  const both = s.method ? `${s.method} · ${length}` : length;
  const all = s.cable ? `${both} · ${s.cable}` : both;
  return [all, both].find((text) => text.length * 8.6 + 4 <= wide) ?? length;
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

interface EdgesProps {
  profile: Profile;
  x: Scale;
  /** A span's edge is being dragged to a new length [m]. */
  onDrag: (span: string, length: number) => void;
  onDrop: (span: string, length: number) => void;
  /** A drag was given up: Escape, or the pointer was taken away. */
  onCancel: () => void;
}

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

/** The far edge of each own span, dragged to change its length. */
export function Edges({ profile, x, onDrag, onDrop, onCancel }: EdgesProps) {
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

interface PointsProps {
  profile: Profile;
  x: Scale;
  points: readonly Point[];
  /** A load is being dragged to where it would be taken off [m from the board]. */
  onDrag: (load: string, at: number) => void;
  onDrop: (load: string, at: number) => void;
  onCancel: () => void;
}

/** Where loads are taken off: a peg under the strip with its name, dragged along the run; a spur of a ring hangs on a stub. */
export function Points({ profile, x, points, onDrag, onDrop, onCancel }: PointsProps) {
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
            className={p.fixed ? "" : "cursor-ew-resize touch-none"}
            onPointerDown={(event) => {
              if (p.fixed) return;
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
            <title>{`${p.name}, ${p.at === null ? "at the far end" : `taken off at ${quantity(p.at, "m")}`}${p.fixed ? "" : ": drag to move it"}`}</title>
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
