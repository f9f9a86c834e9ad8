import { useQuery } from "@tanstack/react-query";
import { stagesTold } from "../../api/client";
import type { Board, Change, Circuit, CircuitSummary, Load, Stage, StageTold } from "../../api/types";
import { PartFields } from "../../parts/part-fields";
import { change, setFields, useJob, useStore } from "../../sync/job-context";
import { atStage, isThere } from "../../sync/stages";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { percent, quantity } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { Opening } from "../../ui/view";
import { GrowingSizes } from "./growing-sizes";
import { partAt, STAGES } from "./words";

/** The stages of a job side by side: what is installed and removed at each, how every circuit stands then, and which cables would grow. */
export function StagesPage({ onCircuit }: { onCircuit: (id: string) => void }) {
  const store = useStore();
  const { inputs, asOf, unsent, settled } = useJob();
  const staged = (inputs?.stages.length ?? 0) > 0;
  const found = useQuery({
    queryKey: ["stages", store.job, asOf],
    queryFn: () => stagesTold(store.job),
    enabled: staged && settled,
    placeholderData: (before) => before,
  });
  if (!inputs) return <Opening />;
  const add = (name: string) => change("add", "stage", crypto.randomUUID(), { fields: { name } });
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching || unsent > 0}>
      <h1 className="font-semibold text-2xl">{STAGES.title}</h1>
      <p className="mt-1 max-w-3xl text-faded">{STAGES.about}</p>
      {staged ? (
        <>
          <ol aria-label={STAGES.list} className="mt-3 max-w-4xl">
            {inputs.stages.map((stage, at) => (
              <StageRow
                key={stage.id}
                stage={stage}
                at={at}
                count={inputs.stages.length}
                told={found.data?.find((s) => s.id === stage.id)}
              />
            ))}
          </ol>
          <Button className="mt-2" onClick={() => store.edit([add(STAGES.named)])}>
            {STAGES.add}
          </Button>
          {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
          <InPlace told={found.data ?? []} onCircuit={onCircuit} />
          <GrowingSizes />
        </>
      ) : (
        <>
          <p className="mt-3">{STAGES.none}</p>
          <Button strong className="mt-2" onClick={() => store.edit([add(STAGES.first), add(STAGES.last)])}>
            {STAGES.begin}
          </Button>
        </>
      )}
    </div>
  );
}

interface RowProps {
  stage: Stage;
  at: number;
  count: number;
  told: StageTold | undefined;
}

function StageRow({ stage, at, count, told }: RowProps) {
  const store = useStore();
  const move = (to: number) => store.edit([change("move", "stage", stage.id, { index: to })]);
  return (
    <li className="border-hair border-t py-2" data-stage={stage.id}>
      <PartFields
        kind="stage"
        values={stage}
        onSave={(fields) => store.edit([setFields("stage", stage.id, fields as Change["fields"])])}
      />
      <p className="mt-1 flex flex-wrap items-baseline gap-x-4">
        <Standing told={told} />
        <button type="button" className="word" disabled={at === 0} onClick={() => move(at - 1)}>
          {STAGES.earlier}
        </button>
        <button type="button" className="word" disabled={at === count - 1} onClick={() => move(at + 1)}>
          {STAGES.later}
        </button>
        <button type="button" className="word" onClick={() => store.edit([change("remove", "stage", stage.id)])}>
          {STAGES.remove}
        </button>
      </p>
    </li>
  );
}

/** How a stage stands, in words. */
function Standing({ told }: { told: StageTold | undefined }) {
  if (!told) return <span className="text-faded">{STAGES.working} …</span>;
  const counts = [
    told.short > 0 && `${told.short} ${told.short === 1 ? "fails" : "fail"}`,
    told.not_known > 0 && `${told.not_known} not known`,
    told.close > 0 && `${told.close} marginal`,
  ].filter(Boolean);
  const moved = [
    told.comes.length > 0 && `${told.comes.length} ${STAGES.comes}`,
    told.goes.length > 0 && `${told.goes.length} ${STAGES.goes}`,
  ].filter(Boolean);
  return (
    <span className={told.short > 0 ? "text-short" : ""}>
      {counts.join(", ") || STAGES.nothing}
      {told.demand !== null && (
        <span className="text-faded">
          ; {STAGES.demand} <span className="figure">{quantity(told.demand, "A")}</span>
        </span>
      )}
      {moved.length > 0 && <span className="text-faded">; {moved.join(", ")}</span>}
    </span>
  );
}

type Kind = "board" | "circuit" | "load";
type Part = Board | Circuit | Load;

/** Every board, circuit and load with the stages it is installed and removed at, and how it stands at each. */
function InPlace({ told, onCircuit }: { told: readonly StageTold[]; onCircuit: (id: string) => void }) {
  const { inputs } = useJob();
  if (!inputs) return null;
  const there = inputs.stages.map((_, at) => atStage(inputs, at));
  const standing = told.map((s) => new Map(s.circuits.map((c) => [c.id, c])));
  return (
    <section aria-label={STAGES.whole} className="mt-6">
      <h2 className="font-semibold text-xl">{STAGES.whole}</h2>
      <div className="overflow-x-auto">
        <table className="mt-2 w-full max-w-5xl" data-in-place>
          <thead>
            <tr className="border-hair border-b text-left text-faded">
              <th className="font-normal">{STAGES.part}</th>
              <th className="font-normal">{STAGES.installed}</th>
              <th className="font-normal">{STAGES.removed}</th>
              {inputs.stages.map((s) => (
                <th key={s.id} className="px-2 font-normal">
                  {s.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {inputs.boards.map((board) => [
              <PartRow
                key={board.id}
                kind="board"
                part={board}
                name={board.name || "Unnamed board"}
                cells={there.map((t) => (t.boards.has(board.id) ? "in" : "out"))}
              />,
              ...inputs.circuits
                .filter((c) => c.board === board.id)
                .flatMap((circuit) => [
                  <PartRow
                    key={circuit.id}
                    kind="circuit"
                    part={circuit}
                    name={circuit.name || "Unnamed circuit"}
                    onOpen={() => onCircuit(circuit.id)}
                    cells={there.map((t, at) =>
                      t.circuits.some((c) => c.id === circuit.id) ? (standing[at]?.get(circuit.id) ?? "in") : "out",
                    )}
                  />,
                  ...(circuit.loads.length > 1 ? circuit.loads : []).map((load) => (
                    <PartRow
                      key={load.id}
                      kind="load"
                      part={load}
                      name={load.name || load.kind.replaceAll("_", " ")}
                      cells={inputs.stages.map((_, at) =>
                        isThere(inputs.stages, load, at) && there[at]?.circuits.some((c) => c.id === circuit.id)
                          ? "in"
                          : "out",
                      )}
                    />
                  )),
                ]),
            ])}
          </tbody>
        </table>
      </div>
    </section>
  );
}

interface PartRowProps {
  kind: Kind;
  part: Part;
  name: string;
  cells: readonly ("in" | "out" | CircuitSummary)[];
  onOpen?: () => void;
}

const INDENT: Record<Kind, string> = { board: "font-semibold", circuit: "pl-4", load: "pl-8 text-faded" };

function PartRow({ kind, part, name, cells, onOpen }: PartRowProps) {
  const store = useStore();
  const set = (fields: Change["fields"]) => store.edit([setFields(kind, part.id, fields)]);
  return (
    <tr className="border-hair border-b" data-part={part.id}>
      <td className={`py-1 ${INDENT[kind]}`}>
        {onOpen ? (
          <button type="button" className="word text-left" onClick={onOpen}>
            {name}
          </button>
        ) : (
          name
        )}
      </td>
      <td className="py-1 pr-2">
        <Pick
          label={partAt(name, STAGES.installed)}
          none={STAGES.throughout}
          value={part.from_stage}
          onPick={(id) => set({ from_stage: id })}
        />
      </td>
      <td className="py-1 pr-2">
        <Pick
          label={partAt(name, STAGES.removed)}
          none={STAGES.stays}
          value={part.until_stage}
          onPick={(id) => set({ until_stage: id })}
        />
      </td>
      {cells.map((cell, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its stage, in their order
        <td key={at} className="whitespace-nowrap px-2 py-1">
          <Cell cell={cell} />
        </td>
      ))}
    </tr>
  );
}

function Cell({ cell }: { cell: "in" | "out" | CircuitSummary }) {
  if (cell === "out")
    return (
      <span className="text-faded" role="img" aria-label={STAGES.absent}>
        –
      </span>
    );
  if (cell === "in") return <span className="text-faded">{STAGES.present}</span>;
  // What fails for want of something else has no margin that is worth telling.
  const told = cell.margin !== null && cell.verdict !== "not_known" && (cell.verdict !== "short" || cell.margin < 0);
  const margin = told ? percent(cell.margin ?? 0) : "";
  return (
    <span title={cell.reason}>
      <Mark verdict={cell.verdict} /> <span className="figure text-faded">{margin}</span>
    </span>
  );
}

interface PickProps {
  label: string;
  none: string;
  value: string | null;
  onPick: (stage: string | null) => void;
}

function Pick({ label, none, value, onPick }: PickProps) {
  const { inputs } = useJob();
  return (
    <select
      aria-label={label}
      className={`${inputClass} w-auto min-w-32 ${value === null ? "text-faded" : ""}`}
      value={value ?? ""}
      onChange={(event) => onPick(event.target.value || null)}
    >
      <option value="">{none}</option>
      {(inputs?.stages ?? []).map((s) => (
        <option key={s.id} value={s.id}>
          {s.name}
        </option>
      ))}
    </select>
  );
}
