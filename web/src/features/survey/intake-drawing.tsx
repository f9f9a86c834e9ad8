import type { Installation } from "../../api/types";
import { inOrder } from "../../parts/board-order";
import { shortFigure } from "../../ui/quantity";
import { INTAKE_DRAWING } from "./words";

const WIDE = 404;
/** Where the supply comes down. */
const DOWN = 132;
const LINE = "var(--ink)";
const EARTH = "var(--copper)";

interface Props {
  job: Installation;
  /** The kind of service fuse in the words of the book; undefined where none is entered. */
  fuse: string | undefined;
  /** A part was chosen: the word of the sentence that holds it. */
  onPart: (label: string) => void;
  onBoard: (id: string) => void;
}

/** A word on the drawing: where it stands, what it says, which word of the sentence it opens. */
interface Label {
  x: number;
  y: number;
  text: string;
  opens: string;
  missing?: boolean;
  assumed?: boolean;
}

/**
 * The intake as it stands in the data: cut-out, meter, tails, boards in their order, the earthing terminal with what hangs on it. Every part is a
 * word that opens where it is entered; the sentences beside say the same.
 */
export function IntakeDrawing({ job, fuse, onPart, onBoard }: Props) {
  const { supply } = job;
  const boards = inOrder(job);
  const top = 262;
  const step = 40;
  const high = top + boards.length * step + 16;
  const rod = supply.earthing === "TT";
  const labels: Label[] = [
    {
      x: DOWN + 34,
      y: 6,
      text: supply.earthing ?? "arrangement",
      opens: "earthing",
      missing: supply.earthing === null,
    },
    { x: DOWN + 108, y: 6, text: supply.phases === 1 ? "single-phase" : "three-phase", opens: "phases" },
    {
      x: DOWN + 34,
      y: 54,
      text: supply.fuse_in === null ? "fuse not entered" : `${shortFigure(supply.fuse_in)} A ${fuse ?? "fuse"}`,
      opens: supply.fuse_in === null ? INTAKE_DRAWING.ratingServiceFuse : "fuse kind",
      missing: supply.fuse_in === null,
      assumed: supply.fuse_in !== null && supply.fuse_source === "assumed",
    },
    {
      x: DOWN + 34,
      y: 78,
      text: supply.ze === null ? INTAKE_DRAWING.zeNotEntered : `Ze ${shortFigure(supply.ze)} Ω`,
      opens: "Ze, external loop impedance",
      missing: supply.ze === null,
      assumed: supply.ze !== null && supply.ze_source === "assumed",
    },
    {
      x: DOWN + 126,
      y: 78,
      text: supply.ipf === null ? INTAKE_DRAWING.ipfNotEntered : `Ipf ${current(supply.ipf)}`,
      opens: "Ipf, line to neutral at the origin",
      missing: supply.ipf === null,
      assumed: supply.ipf !== null && supply.ipf_source === "assumed",
    },
    {
      x: DOWN + 34,
      y: 188,
      text: supply.tails_csa === null ? "tails not entered" : `tails ${shortFigure(supply.tails_csa)} mm²`,
      opens: "Csa of the meter tails",
      missing: supply.tails_csa === null,
    },
    {
      x: DOWN + 146,
      y: 188,
      text: supply.tails_length === null ? "length" : `${shortFigure(supply.tails_length)} m`,
      opens: "Length of the tails",
      missing: supply.tails_length === null,
    },
  ];
  const met = { x: 14, y: 216 };
  return (
    <figure className="m-0 max-w-full overflow-x-auto" aria-label={INTAKE_DRAWING.intakeDrawn}>
      <div className="relative" style={{ width: WIDE, height: high + 92 }}>
        <svg width={WIDE} height={high + 92} aria-hidden="true" className="absolute inset-0">
          <g fill="none" stroke={LINE} strokeWidth="1.6">
            {/* the supply line down through cut-out and meter */}
            <path d={`M${DOWN} 0V44M${DOWN} 92V118M${DOWN} 160V262`} strokeWidth="2.4" />
            <rect x={DOWN - 24} y="44" width="48" height="48" />
            <rect x={DOWN - 6} y="54" width="12" height="28" />
            <path d={`M${DOWN} 44V92`} />
            <rect x={DOWN - 28} y="118" width="56" height="42" />
            <path d={`M${DOWN - 28} 132h56`} />
            {/* the boards, each under the one that feeds it */}
            {boards.map(({ board, depth, from }, i) => {
              const y = top + i * step;
              const x = DOWN - 12 + depth * 26;
              const parent = from === null ? -1 : boards.findIndex((b) => b.board.id === from);
              const px = parent < 0 ? DOWN : DOWN - 12 + (boards[parent]?.depth ?? 0) * 26 + 12;
              const py = parent < 0 ? 256 : top + parent * step + 30;
              return (
                <g key={board.id}>
                  <path d={`M${px} ${py}V${y + 15}H${x}`} />
                  <rect x={x} y={y} width="24" height="30" fill="var(--leaf)" />
                  {board.earthing === "TT" && (
                    <path d={`M${x + 12} ${y + 30}v6m-7 0h14m-11 3h8m-5 3h2`} stroke={EARTH} />
                  )}
                </g>
              );
            })}
          </g>
          <g fill="none" stroke={EARTH} strokeWidth="1.8">
            {/* the earthing terminal, what earths it, what it bonds */}
            <path d={`M${met.x} ${met.y}H58`} strokeWidth="5" />
            {rod ? (
              <path d={`M26 ${met.y}V${high + 30}m-12 0h24m-19 5h14m-9 5h4`} />
            ) : (
              <path d={`M${DOWN - 24} 70H36V${met.y}`} strokeDasharray={supply.earthing === null ? "3 3" : undefined} />
            )}
            <path d={`M50 ${met.y}V${top + 15}H${DOWN - 12}`} />
            {supply.extraneous !== false && (
              <path
                d={`M18 ${met.y}V${high + 58}H70`}
                strokeDasharray={
                  supply.bond === "none" || supply.bonding_csa === null || supply.extraneous === null
                    ? "3 3"
                    : undefined
                }
              />
            )}
          </g>
          {supply.extraneous !== false && (
            <path
              d={`M70 ${high + 50}h34v-8h10v32h-10v-8h-34z`}
              fill="var(--leaf)"
              stroke={LINE}
              strokeDasharray={supply.extraneous === null ? "3 3" : undefined}
            />
          )}
          <text x={DOWN - 16} y="150" className="figure fill-faded text-[15px]">
            kWh
          </text>
        </svg>
        {labels.map((label) => (
          <Part key={label.opens + label.text} label={label} onPart={onPart} />
        ))}
        <Part
          label={{
            x: 44,
            y: 96 + (rod ? 92 : 0),
            text: supply.earthing_csa === null ? "earthing" : `${shortFigure(supply.earthing_csa)} mm²`,
            opens: "Csa of the earthing conductor",
            missing: supply.earthing_csa === null,
          }}
          narrow
          onPart={onPart}
        />
        {boards.map(({ board, depth }, i) => (
          <button
            key={board.id}
            type="button"
            className="word absolute max-w-[13rem] truncate"
            style={{ left: DOWN + 22 + depth * 26, top: top + i * step + 3 }}
            onClick={() => onBoard(board.id)}
          >
            {board.name || "Unnamed board"}
            {board.ways !== null && <span className="text-faded">, {board.ways} ways</span>}
          </button>
        ))}
        {supply.extraneous !== false && (
          <Part
            label={{
              x: 124,
              y: high + 46,
              text:
                supply.bond === "none"
                  ? "not bonded"
                  : supply.bonding_csa === null
                    ? "main bonding not entered"
                    : `bonding ${shortFigure(supply.bonding_csa)} mm²`,
              opens: "Csa of the main bonding",
              missing: supply.bond === "none" || supply.bonding_csa === null,
            }}
            onPart={onPart}
          />
        )}
      </div>
    </figure>
  );
}

function Part({ label, narrow, onPart }: { label: Label; narrow?: boolean; onPart: (label: string) => void }) {
  return (
    <button
      type="button"
      data-part={label.opens}
      data-missing={label.missing || undefined}
      className={`word absolute bg-paper ${narrow ? "max-w-24 truncate" : "whitespace-nowrap"} ${label.assumed ? "hatch" : ""}`}
      style={{ left: label.x, top: label.y }}
      onClick={() => onPart(label.opens)}
    >
      {label.text}
    </button>
  );
}

const current = (amps: number) => (amps >= 1000 ? `${shortFigure(amps / 1000)} kA` : `${shortFigure(amps)} A`);
