import type { Cutting, PullList } from "../../api/site";
import type { OnSite } from "../../parts/use-site-log";
import { NumbersField } from "../../ui/editors";
import { exact, glued, quantity } from "../../ui/quantity";
import { CUTTING_PLAN } from "./words";

const DRUM = { lo: 5, hi: 1000, unit: "m" };
const REST = { lo: 0.5, hi: 1000, unit: "m" };

interface Props {
  list: PullList;
  site: OnSite;
  onDrums: (drums: number[]) => Promise<void>;
}

/** Which piece is cut from which drum, so that the least cable is bought. */
export function CuttingPlan({ list, site, onDrums }: Props) {
  return (
    <section className="mt-6" aria-label={CUTTING_PLAN.cuttingPlan}>
      <h2 className="font-semibold text-xl">{CUTTING_PLAN.cuttingPlan}</h2>
      <p className="text-faded">{CUTTING_PLAN.howMuchEach}</p>
      <div className="no-print mt-2 max-w-sm">
        {site.designs ? (
          <NumbersField
            label={CUTTING_PLAN.drumLengthsBuy}
            value={list.drums}
            limits={DRUM}
            least={1}
            most={8}
            onSave={(drums) => void onDrums(drums)}
          />
        ) : (
          <p>Drum lengths: {list.drums.map((d) => quantity(d, "m")).join(", ")}</p>
        )}
      </div>
      {list.cutting.map((cut) => (
        <OneCable
          key={cut.cable}
          cut={cut}
          list={list}
          onRests={(lengths) => site.write({ kind: "on_hand", data: { cable: cut.cable, lengths } })}
        />
      ))}
      {list.sums
        .filter((sum) => sum.unknown > 0)
        .map((sum) => (
          <p key={sum.cable} className="mt-2 text-short">
            {glued(sum.cable)}: {sum.unknown} {sum.unknown === 1 ? "piece has" : "pieces have"} no length yet and{" "}
            {sum.unknown === 1 ? "is" : "are"} left out of the plan.
          </p>
        ))}
    </section>
  );
}

function OneCable({ cut, list, onRests }: { cut: Cutting; list: PullList; onRests: (lengths: number[]) => void }) {
  const longest = Math.max(...cut.drums.map((d) => d.length));
  const sum = list.sums.find((s) => s.cable === cut.cable);
  return (
    <div className="mt-4" data-cable={cut.cable}>
      <h3>
        <strong>{glued(cut.cable)}</strong>
        {sum && (
          <>
            , <span className="figure">{quantity(sum.metres, "m")}</span> in {sum.pieces}{" "}
            {sum.pieces === 1 ? "piece" : "pieces"}
          </>
        )}
        : {cut.bought > 0 ? `buy ${bought(cut)}` : "nothing to buy"}
      </h3>
      <p className="text-faded">
        {cut.proven
          ? CUTTING_PLAN.leastBuy
          : `No plan buys less than ${quantity(cut.bound, "m")}; a better plan than this one was not ruled out in the time.`}
      </p>
      <ul className="mt-1 space-y-1">
        {cut.drums.map((drum, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: drums of one length are alike
          <li key={k} className="grid grid-cols-[7rem_1fr] items-center gap-x-2 max-sm:grid-cols-1">
            <span>
              {drum.at_hand ? "part drum of " : ""}
              <span className="figure">{quantity(drum.length, "m")}</span>
            </span>
            <span className="flex h-8" style={{ width: `${(100 * drum.length) / longest}%` }}>
              {drum.pieces.map((piece, n) => (
                <span
                  // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one cable are alike
                  key={n}
                  className="figure grid place-items-center overflow-hidden whitespace-nowrap border border-ink text-sm"
                  style={{ width: `${(100 * piece.length) / drum.length}%` }}
                  title={`${piece.tag} ${quantity(piece.length, "m")}`}
                >
                  {piece.length / longest > 0.09 ? `${piece.tag} ${exact(piece.length)}` : piece.tag}
                </span>
              ))}
              {drum.left > 0 && (
                <span
                  className="figure grid place-items-center overflow-hidden whitespace-nowrap border border-faded border-dashed text-faded text-sm"
                  style={{ width: `${(100 * drum.left) / drum.length}%` }}
                  title={`left over ${quantity(drum.left, "m")}`}
                >
                  {drum.left / longest > 0.06 && quantity(drum.left, "m")}
                </span>
              )}
            </span>
          </li>
        ))}
      </ul>
      {cut.too_long.map((piece) => (
        <p key={piece.tag} className="mt-1 text-short">
          {piece.tag} takes {quantity(piece.length, "m")}: no drum is that long. Order it cut to length; a joint is not
          planned.
        </p>
      ))}
      <div className="no-print mt-1 max-w-sm">
        <NumbersField
          label={`Part drums of ${glued(cut.cable)} in stock, separated by “;”`}
          value={list.at_hand[cut.cable] ?? []}
          limits={REST}
          least={0}
          most={40}
          onSave={onRests}
        />
      </div>
    </div>
  );
}

function bought(cut: Cutting) {
  const counts = new Map<number, number>();
  for (const drum of cut.drums) if (!drum.at_hand) counts.set(drum.length, (counts.get(drum.length) ?? 0) + 1);
  return [...counts].map(([length, count]) => `${count} × ${quantity(length, "m")}`).join(" and ");
}
