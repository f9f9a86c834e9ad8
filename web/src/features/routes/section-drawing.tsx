import type { Section } from "../../api/types";
import { quantity } from "../../ui/quantity";

interface Props {
  section: Section;
  /** The number of each circuit in the list beside the drawing. */
  numbers: Map<string, number>;
  /** Circuits that are loaded so lightly that they do not count. */
  light: Set<string>;
  title: string;
}

const MARGIN = 3;
const MOST_WIDE = 340;
const MOST_HIGH = 200;

/** A route cut across, to scale: each cable with its circuit's number; what does not count is hollow, what finds no place stands outside. */
export function SectionDrawing({ section, numbers, light, title }: Props) {
  if (section.why) return <p className="text-faded">No drawing: {section.why}.</p>;
  const right = Math.max(section.width, ...section.shapes.map((s) => s.x + s.width));
  const top = Math.max(section.height, ...section.shapes.map((s) => s.y + s.height));
  const [wide, high] = [right + 2 * MARGIN, top + 2 * MARGIN + 7];
  const scale = Math.min(MOST_WIDE / wide, MOST_HIGH / high, 6);
  const up = (y: number) => top + MARGIN - y;
  return (
    <svg
      viewBox={`0 0 ${wide} ${high}`}
      width={wide * scale}
      height={high * scale}
      role="img"
      aria-label={title}
      data-section
      className="max-w-full overflow-visible"
    >
      {section.outline === "trunking" && (
        <path
          d={`M${MARGIN - 0.5} ${up(section.height)}V${up(0) + 0.5}H${MARGIN + section.width + 0.5}V${up(section.height)}`}
          fill="none"
          className="stroke-ink"
          strokeWidth="1"
        />
      )}
      {section.outline === "conduit" && (
        <circle
          cx={MARGIN + section.width / 2}
          cy={up(section.height / 2)}
          r={section.width / 2 + 0.5}
          fill="none"
          className="stroke-ink"
          strokeWidth="1"
        />
      )}
      {section.outline === "" && (
        <path d={`M0 ${up(0) + 0.4}H${wide}`} className="stroke-faded" strokeWidth={2 / scale} fill="none" />
      )}
      {section.shapes.map((s, i) => {
        const round = s.width === s.height;
        const [x, y] = [MARGIN + s.x, up(s.y + s.height)];
        const faint = light.has(s.circuit);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: shapes have no identity beyond their order
          <g key={i} data-shape={s.circuit} data-inside={s.inside}>
            <rect
              x={x + 0.15}
              y={y + 0.15}
              width={s.width - 0.3}
              height={s.height - 0.3}
              rx={round ? s.width / 2 : s.height / 2.4}
              className={`${s.inside ? "stroke-ink" : "stroke-short"} ${faint ? "fill-paper" : "fill-lit"}`}
              strokeWidth={(s.inside ? 1.4 : 3) / scale}
              strokeDasharray={faint ? `${4 / scale} ${3 / scale}` : undefined}
            />
            <text
              x={x + s.width / 2}
              y={y + s.height / 2}
              textAnchor="middle"
              dominantBaseline="central"
              fontSize={Math.min(s.height * 0.62, 15 / scale)}
              className="fill-ink font-figure"
            >
              {numbers.get(s.circuit)}
            </text>
          </g>
        );
      })}
      <g className="fill-faded stroke-faded">
        <path d={`M${MARGIN} ${high - 2}h10m-10 -1v2m10 -2v2`} fill="none" strokeWidth={1.2 / scale} />
        <text x={MARGIN + 11.5} y={high - 2} fontSize={13 / scale} dominantBaseline="central" stroke="none">
          {quantity(10, "mm")}
        </text>
      </g>
    </svg>
  );
}
