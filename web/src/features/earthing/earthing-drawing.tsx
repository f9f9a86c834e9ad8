import type { BoardResult, Installation } from "../../api/types";
import { inOrder } from "../../parts/board-order";
import { quantity, shortFigure } from "../../ui/quantity";
import { ARMOUR, EARTHING_DRAWING } from "./words";

const WIDE = 900;
const ROW = 74;

interface Props {
  job: Installation;
  boards: readonly BoardResult[];
}

/**
 * The earth of the job from the supply to the last board: what is carried on, what stands on an electrode of its own, what is bonded. Full lines
 * are there, broken ones are not known or missing. The list below it says the same.
 */
export function EarthingDrawing({ job, boards }: Props) {
  const { supply } = job;
  const order = inOrder(job);
  const high = 70 + order.length * ROW;
  const facts = factsOf(job, boards);
  return (
    <figure className="m-0 mt-3 overflow-x-auto" aria-label={EARTHING_DRAWING.earthingBondingDrawn}>
      <svg viewBox={`0 0 ${WIDE} ${high}`} width="100%" style={{ minWidth: 640, maxWidth: WIDE }} aria-hidden="true">
        <g className="text-[15px]" fill="var(--ink)">
          <text x="8" y="20" className="font-semibold">
            {supply.earthing ?? "arrangement not entered"}
          </text>
          <text x="8" y="40" fill="var(--faded)">
            {supply.earthing === "TT" ? "installation earth electrode" : "supply earth"}
          </text>
        </g>
        <g stroke="var(--copper)" fill="none" strokeWidth="2">
          <path d="M150 34H250" strokeDasharray={supply.earthing_csa === null ? "5 4" : undefined} />
          <path d="M250 20V48" strokeWidth="6" />
          <path d={`M250 34H274V${70 + 24}`} />
        </g>
        <g className="text-[15px]">
          <text x="156" y="26" className="figure" fill="var(--ink)">
            {supply.earthing_csa === null ? "not entered" : `${shortFigure(supply.earthing_csa)} mm²`}
          </text>
          <text x="262" y="16" fill="var(--faded)">
            {EARTHING_DRAWING.mainEarthingTerminal}
          </text>
          {supply.extraneous !== false && (
            <>
              <path
                d="M250 42H420"
                stroke="var(--copper)"
                strokeWidth="2"
                strokeDasharray={supply.extraneous === null || unbonded(supply) ? "5 4" : undefined}
              />
              <Pipe x={420} y={42} unknown={supply.extraneous === null} />
              <text x="300" y="36" className="figure" fill="var(--ink)">
                {bonding(supply)}
              </text>
            </>
          )}
        </g>
        {order.map(({ board, depth, from }, i) => {
          const y = 70 + i * ROW;
          const x = 290 + depth * 60;
          const parent = order.findIndex((o) => o.board.id === from);
          const fed = job.circuits.find((c) => c.feeds === board.id);
          const own = board.earthing === "TT";
          const px = parent < 0 ? 274 : 290 + (order[parent]?.depth ?? 0) * 60 + 20;
          const py = parent < 0 ? 60 : 70 + parent * ROW + 46;
          const armoured = fed?.run.cable.family?.startsWith("armoured");
          return (
            <g key={board.id} className="text-[15px]" data-earth={board.id}>
              <path
                d={`M${px} ${py}V${y + 24}H${own ? x - 24 : x}`}
                stroke="var(--copper)"
                strokeWidth="2"
                fill="none"
              />
              {own && (
                <path
                  d={`M${x - 24} ${y + 16}v16M${x - 16} ${y + 16}v16`}
                  stroke="var(--ink)"
                  strokeWidth="2"
                  fill="none"
                />
              )}
              <rect x={x} y={y} width="40" height="46" fill="var(--leaf)" stroke="var(--ink)" strokeWidth="1.5" />
              {own && (
                <path
                  d={`M${x + 20} ${y + 46}v8m-12 0h24m-18 5h12m-8 5h4`}
                  stroke="var(--copper)"
                  strokeWidth="2"
                  fill="none"
                  strokeDasharray={board.ra === null ? "4 3" : undefined}
                />
              )}
              <text x={x + 50} y={y + 25} className="font-semibold" fill="var(--ink)">
                {board.name || "Unnamed board"}
                {board.outbuilding ? " (separate building)" : ""}
              </text>
              <text x={x + 50} y={y + 44} fill="var(--faded)">
                {[
                  own
                    ? board.ra === null
                      ? "own electrode, RA to enter"
                      : `own electrode, RA ${quantity(board.ra, "Ω")}`
                    : "earth exported from the house",
                  armoured && fed && ARMOUR[fed.armour_ends],
                  own && fed?.core_ends === "supply" && "its cpc left off here",
                  own && fed?.core_ends === "both" && "its cpc connected here",
                ]
                  .filter(Boolean)
                  .join(", ")}
              </text>
              {board.extraneous !== false && fed && (board.outbuilding || board.extraneous) && (
                <>
                  <path
                    d={`M${x + 40} ${y + 4}H700`}
                    stroke="var(--copper)"
                    strokeWidth="1.5"
                    strokeDasharray={board.bond === "none" || board.extraneous === null ? "5 4" : undefined}
                  />
                  <Pipe x={700} y={y + 4} unknown={board.extraneous === null} />
                </>
              )}
            </g>
          );
        })}
      </svg>
      <details>
        <summary className="cursor-pointer text-faded hover:bg-lit">{EARTHING_DRAWING.describeDrawing}</summary>
        <ul className="list-disc pl-5">
          {facts.map((fact) => (
            <li key={fact}>{fact}</li>
          ))}
        </ul>
      </details>
    </figure>
  );
}

function Pipe({ x, y, unknown }: { x: number; y: number; unknown: boolean }) {
  return (
    <g>
      <path
        d={`M${x} ${y - 6}h26v-6h9v24h-9v-6h-26z`}
        fill="var(--leaf)"
        stroke="var(--ink)"
        strokeDasharray={unknown ? "3 3" : undefined}
      />
      <text x={x + 42} y={y + 5} fill="var(--ink)">
        {unknown ? "metal? not checked" : "metal services"}
      </text>
    </g>
  );
}

const unbonded = (supply: Installation["supply"]) => supply.bond === "none" || supply.bonding_csa === null;

const bonding = (supply: Installation["supply"]) =>
  supply.bond === "none"
    ? "not bonded"
    : supply.bonding_csa === null
      ? "bonding not entered"
      : `${shortFigure(supply.bonding_csa)} mm²`;

/** What the drawing shows, for those who hear it. */
function factsOf(job: Installation, boards: readonly BoardResult[]): string[] {
  const { supply } = job;
  const facts = [
    `Supply: ${supply.earthing ?? "arrangement not entered"}, main earthing conductor ${supply.earthing_csa === null ? "not entered" : `${shortFigure(supply.earthing_csa)} mm²`}`,
    supply.extraneous === false
      ? EARTHING_DRAWING.noMetalServices
      : supply.extraneous === null
        ? EARTHING_DRAWING.metalServicesIntake
        : `Metal services at the intake: ${bonding(supply)}`,
  ];
  for (const { board } of inOrder(job)) {
    const zs = boards.find((b) => b.id === board.id)?.zs;
    const earth =
      board.earthing === "TT"
        ? `on its own electrode, RA ${board.ra === null ? "to enter" : quantity(board.ra, "Ω")}`
        : "on the earth exported to it";
    const bond = {
      none: "metal there is not bonded",
      conductor: "metal there is bonded by a conductor",
      armour: "metal there is bonded by the armour",
      core: "metal there is bonded by a core of the feed",
    };
    facts.push(
      [
        `${board.name || "Unnamed board"}: ${earth}`,
        zs != null && `Zs ${quantity(zs, "Ω")}`,
        board.extraneous === true && bond[board.bond],
        board.extraneous === null && board.outbuilding && "metal services there not checked yet",
      ]
        .filter(Boolean)
        .join(", "),
    );
  }
  return facts;
}
