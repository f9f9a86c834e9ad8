import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Change, DeviceBand, Plot } from "../../api/types";
import { setFields, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { useWidth } from "../../ui/use-width";
import { Mark } from "../../ui/verdict";
import { download, downloadPng } from "./download";
import { current, readAt, seconds } from "./read-at";
import { PLOT_VIEW } from "./words";

const LEFT = 62;
const RIGHT = 16;
const TOP = 44;
const BOTTOM = 44;

/** The sheet the square is laid on, as wide as the page allows [px], so that its letters keep their size. */
const sheetOf = (room: number) => {
  const wide = Math.min(640, room);
  const high = Math.round(wide < 480 ? wide * 1.05 : wide * 0.734);
  const px = (x: number) => LEFT + x * (wide - LEFT - RIGHT);
  const py = (y: number) => TOP + (1 - y) * (high - TOP - BOTTOM);
  const line = (points: readonly (readonly number[])[]) =>
    points.map(([x, y], i) => `${i === 0 ? "M" : "L"}${px(x ?? 0).toFixed(1)} ${py(y ?? 0).toFixed(1)}`).join("");
  return { wide, high, px, py, line };
};
type Sheet = ReturnType<typeof sheetOf>;

/** The hatches of the bands, told apart without colour: the first is the nearest to the load. */
const HATCHES = ["M0 0L8 8", "M0 8L8 0", "M0 4H8", "M4 0V8", "M0 0L8 8M0 8L8 0"];

interface Props {
  plot: Plot;
  name: string;
}

/** The chain over time and current as the server laid it out: bands, damage lines, faults, times; it reads off, and a rating can be stepped. */
export function PlotView({ plot, name }: Props) {
  const store = useStore();
  const svg = useRef<SVGSVGElement>(null);
  const [room, width] = useWidth<HTMLDivElement>();
  const sheet = sheetOf(width);
  const { wide, high, px, py, line } = sheet;
  const [probe, setProbe] = useState<{ x: number; y: number } | null>(null);
  const { scale } = plot;
  const amps = (x: number) => scale.i_lo * (scale.i_hi / scale.i_lo) ** x;
  const time = (y: number) => scale.t_lo * (scale.t_hi / scale.t_lo) ** y;
  const onMove = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = (((event.clientX - box.left) / box.width) * wide - LEFT) / (wide - LEFT - RIGHT);
    const y = 1 - (((event.clientY - box.top) / box.height) * high - TOP) / (high - TOP - BOTTOM);
    setProbe(x < 0 || x > 1 || y < 0 || y > 1 ? null : { x, y });
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const moves: Record<string, [number, number]> = {
      ArrowRight: [0.02, 0],
      ArrowLeft: [-0.02, 0],
      ArrowUp: [0, 0.02],
      ArrowDown: [0, -0.02],
    };
    const step = moves[event.key];
    if (!step) return;
    event.preventDefault();
    setProbe((p) => ({
      x: Math.min(1, Math.max(0, (p?.x ?? 0.5) + step[0])),
      y: Math.min(1, Math.max(0, (p?.y ?? 0.5) + step[1])),
    }));
  };
  const rate = (device: DeviceBand, by: number) => {
    const at = device.ratings.findIndex((r) => r >= (device.rating ?? 0) - 1e-9);
    const rating = device.ratings[at + by];
    if (rating !== undefined) store.edit([rated(device, rating)]);
  };
  const reading = probe ? readAt(plot, probe.x) : [];
  const [roomy] = useState(() => globalThis.matchMedia?.("(min-width: 1280px)").matches ?? true);
  return (
    <div className="mt-3 grid grid-cols-[minmax(0,44rem)_minmax(16rem,1fr)] gap-x-6 gap-y-3 max-xl:grid-cols-1">
      <div>
        <div
          ref={room}
          role="slider"
          tabIndex={0}
          aria-label={PLOT_VIEW.readPlotArrows}
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round((probe?.x ?? 0) * 100)}
          aria-valuetext={
            probe
              ? `${current(amps(probe.x))}, ${seconds(time(probe.y))}. ${reading.join("; ")}`
              : "no point chosen yet"
          }
          onKeyDown={onKeyDown}
          onBlur={() => setProbe(null)}
        >
          <svg
            ref={svg}
            viewBox={`0 0 ${wide} ${high}`}
            width="100%"
            className="block bg-paper"
            aria-hidden="true"
            data-plot={plot.circuit}
            fontFamily="var(--font-figure)"
            fontSize="15"
            onPointerMove={onMove}
            onPointerLeave={() => setProbe(null)}
          >
            <defs>
              {HATCHES.map((d, i) => (
                <pattern key={d} id={`band-${i}`} width="8" height="8" patternUnits="userSpaceOnUse">
                  <path d={d} stroke="var(--ink)" strokeWidth="0.8" opacity="0.55" fill="none" />
                </pattern>
              ))}
              <clipPath id="plot-room">
                <rect x={LEFT} y={TOP} width={wide - LEFT - RIGHT} height={high - TOP - BOTTOM} />
              </clipPath>
            </defs>
            <Axes plot={plot} sheet={sheet} />
            <g clipPath="url(#plot-room)">
              {plot.times.map((t) => (
                <path
                  key={t.id}
                  d={`M${LEFT} ${py(t.y)}H${wide - RIGHT}`}
                  stroke="var(--copper)"
                  strokeWidth="1.5"
                  strokeDasharray="8 4"
                />
              ))}
              {plot.devices.map((device, i) => (
                <g key={device.id} data-band={device.id}>
                  {device.area.length > 0 && (
                    <path d={`${line(device.area)}Z`} fill={`url(#band-${i % HATCHES.length})`} stroke="none" />
                  )}
                  <path d={line(device.fast)} fill="none" stroke="var(--ink)" strokeWidth="1" />
                  <path d={line(device.slow)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
                </g>
              ))}
              {plot.damage.map((d) => (
                <path
                  key={d.id}
                  data-damage={d.id}
                  d={line(d.points)}
                  fill="none"
                  stroke="var(--short)"
                  strokeWidth="2.4"
                  strokeDasharray={d.id === "line" ? undefined : d.id === "cpc" ? "10 5" : "3 4"}
                />
              ))}
              {plot.faults.map((f) => (
                <path
                  key={f.id}
                  data-fault={f.id}
                  d={`M${px(f.x)} ${TOP}V${high - BOTTOM}`}
                  stroke="var(--copper)"
                  strokeWidth={f.end === "least" ? 1.6 : 2.2}
                  strokeDasharray={f.end === "least" ? "3 4" : undefined}
                />
              ))}
              {plot.through && (
                <path
                  d={`M${px(plot.through.x)} ${py(plot.through.y) - 7}l7 7l-7 7l-7 -7z`}
                  fill="var(--paper)"
                  stroke="var(--short)"
                  strokeWidth="2"
                />
              )}
            </g>
            <Names plot={plot} sheet={sheet} />
            {probe && (
              <path
                d={`M${px(probe.x)} ${TOP}V${high - BOTTOM}M${LEFT} ${py(probe.y)}H${wide - RIGHT}`}
                stroke="var(--faded)"
                strokeDasharray="1 3"
                pointerEvents="none"
              />
            )}
          </svg>
        </div>
        <p className="no-print mt-1 flex gap-2">
          <Button onClick={() => svg.current && download(svg.current, `${name}.svg`)}>{PLOT_VIEW.saveSvg}</Button>
          <Button onClick={() => svg.current && void downloadPng(svg.current, `${name}.png`)}>
            {PLOT_VIEW.savePng}
          </Button>
        </p>
        {/* Below the buttons: where the reading goes away, nothing moves under a pointer that is just pressing one. */}
        <p className={`min-h-12 mt-1 ${probe ? "figure" : "text-faded"}`} aria-hidden={probe === null}>
          {probe
            ? [`${current(amps(probe.x))}, ${seconds(time(probe.y))}`, ...reading].join(" · ")
            : PLOT_VIEW.pointPlotUse}
        </p>
      </div>
      <div>
        <h2 className="font-semibold text-lg">{PLOT_VIEW.devicesSeriesLoad}</h2>
        <ol data-chain>
          {plot.devices.map((device, i) => {
            const pair = plot.pairs.find((p) => p.lower === device.id);
            const can = device.ratings.length > 0 && device.role !== "service";
            return (
              <li key={device.id} className="border-hair border-t py-1.5" data-device={device.id}>
                <div className="grid grid-cols-[1.6rem_1fr_auto] items-center gap-x-2">
                  <svg width="22" height="16" aria-hidden="true">
                    <rect width="22" height="16" fill={`url(#band-${i % HATCHES.length})`} stroke="var(--ink)" />
                  </svg>
                  <span>
                    <span className="font-semibold">{device.name}</span>, {device.title}
                  </span>
                  {can && (
                    <span className="no-print whitespace-nowrap">
                      <Button aria-label={`Smaller rating of ${device.name}`} onClick={() => rate(device, -1)}>
                        −
                      </Button>{" "}
                      <Button aria-label={`Larger rating of ${device.name}`} onClick={() => rate(device, 1)}>
                        +
                      </Button>
                    </span>
                  )}
                </div>
                {device.why && <p className="text-faded">No curve: {device.why}</p>}
                {!device.why && device.fast.length === 0 && (
                  <p className="text-faded">{PLOT_VIEW.minimumOperatingTime}</p>
                )}
                {pair && (
                  <p className="mt-0.5 ml-6" data-beside={pair.verdict}>
                    <Mark verdict={pair.verdict} /> {pair.text}
                  </p>
                )}
              </li>
            );
          })}
        </ol>
        {/* Beside the plot it is open; below it, on a narrower screen, it is there to be opened. */}
        <details className="mt-3" open={roomy} data-legend>
          <summary className="cursor-pointer font-semibold hover:bg-lit">{PLOT_VIEW.plot}</summary>
          <ul>
            {plot.damage.map((d) => (
              <li key={d.id}>
                <span className="text-short">
                  {d.id === "line" ? "full" : d.id === "cpc" ? "broken" : "dotted"} red:
                </span>{" "}
                what the {d.title.replace(/^the /, "")} withstands
              </li>
            ))}
            {plot.faults.map((f) => (
              <li key={f.id}>
                <span className="text-copper">{f.end === "least" ? "dotted" : "full"} vertical:</span> {f.title}
              </li>
            ))}
            {plot.times.map((t) => (
              <li key={t.id}>
                <span className="text-copper">{PLOT_VIEW.dashedLevel}</span> {t.title}
              </li>
            ))}
            {plot.through && (
              <li>
                <span className="text-short">diamond:</span> {plot.through.title}, drawn as the time of the same energy
              </li>
            )}
          </ul>
          <p className="mt-2 text-faded">{PLOT_VIEW.bandWhatProduct}</p>
        </details>
      </div>
    </div>
  );
}

/** The change of a rating: of a load's own fuse, or of a circuit's device. */
const rated = (device: DeviceBand, rating: number): Change =>
  device.load
    ? setFields("load", device.load, { local_fuse: rating })
    : setFields("circuit", device.circuit ?? "", { device: { rating } });

function Axes({ plot, sheet: { wide, high, px, py } }: { plot: Plot; sheet: Sheet }) {
  return (
    <g>
      {plot.amps.map((t) => (
        <g key={t.at}>
          <path d={`M${px(t.at)} ${TOP}V${high - BOTTOM}`} stroke="var(--hair)" />
          <text
            x={px(t.at)}
            y={high - BOTTOM + 18}
            textAnchor={t.at > 0.98 ? "end" : t.at < 0.02 ? "start" : "middle"}
            fill="var(--faded)"
          >
            {t.label}
          </text>
        </g>
      ))}
      {plot.seconds.map((t) => (
        <g key={t.at}>
          <path d={`M${LEFT} ${py(t.at)}H${wide - RIGHT}`} stroke="var(--hair)" />
          <text x={LEFT - 6} y={py(t.at) + 5} textAnchor="end" fill="var(--faded)">
            {t.label}
          </text>
        </g>
      ))}
      <text x={wide - RIGHT} y={high - 8} textAnchor="end" fill="var(--faded)">
        {PLOT_VIEW.current}
      </text>
      <text x={4} y={TOP - 28} fill="var(--faded)">
        {PLOT_VIEW.timeS}
      </text>
      <rect
        x={LEFT}
        y={TOP}
        width={wide - LEFT - RIGHT}
        height={high - TOP - BOTTOM}
        fill="none"
        stroke="var(--faded)"
      />
    </g>
  );
}

/** Names at the tops of the bands are so far apart at least [px]. */
const APART = 64;

/** The ratings above the plot, where no edge runs through them, each with a line to the free end of its band. */
function Names({ plot, sheet: { wide, px, py } }: { plot: Plot; sheet: Sheet }) {
  const ends = plot.devices
    .flatMap((d) => {
      const first = d.slow[0];
      if (!first || d.rating === null) return [];
      return [{ id: d.id, at: px(first[0] ?? 0), y: Math.max(TOP, py(first[1] ?? 0)), text: `${d.rating} A` }];
    })
    .sort((a, b) => a.at - b.at);
  const xs: number[] = [];
  for (const end of ends) xs.push(Math.max(end.at, LEFT + 30, (xs.at(-1) ?? Number.NEGATIVE_INFINITY) + APART));
  // Where they run out at the right, they are pushed back from there.
  for (let i = xs.length - 1, room = wide - RIGHT - 24; i >= 0; i--, room -= APART) xs[i] = Math.min(xs[i] ?? 0, room);
  return (
    <g>
      {ends.map((end, i) => (
        <g key={end.id} data-name={end.id}>
          <path d={`M${xs[i]} ${TOP - 8}L${end.at.toFixed(1)} ${end.y.toFixed(1)}`} stroke="var(--faded)" fill="none" />
          <text x={xs[i]} y={TOP - 12} textAnchor="middle" fill="var(--ink)" className="font-semibold">
            {end.text}
          </text>
        </g>
      ))}
    </g>
  );
}
