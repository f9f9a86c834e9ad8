import { useEffect, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Circuit, Citation } from "../api/types";
import { AttentionPage } from "../features/attention/attention-page";
import { CircuitPage } from "../features/circuit/circuit-page";
import { IntakePage } from "../features/intake/intake-page";
import { SignIn } from "../features/session/sign-in";
import { TableView } from "../features/tables/table-view";
import { TablesPage } from "../features/tables/tables-page";
import { WholePage } from "../features/whole/whole-page";
import { Working } from "../features/working/working";
import { change, useJob, useStore } from "../state/job-context";
import { Button, Sheet } from "../ui/controls";
import { useKeys } from "../ui/keys";
import { useWide } from "../ui/wide";
import { KeyList } from "./key-list";
import { SaveState, SaveTrouble } from "./save-state";
import { TopBar } from "./top-bar";
import { Tree } from "./tree";

const FOLD_KEY = "mellow-span/working-folded";

/** A job: tree at left, the thing at hand, the working at right. */
export function JobPage() {
  const { jobId = "", circuitId = null, "*": rest = "" } = useParams();
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const store = useStore();
  const { inputs, state, name, phase } = useJob();
  const [folded, setFolded] = useState(() => localStorage.getItem(FOLD_KEY) === "1");
  const [treeShown, setTreeShown] = useState(false);
  const [cite, setCite] = useState<Citation | null>(null);
  const wide = useWide();
  const [keys, setKeys] = useState(false);
  const [leaving, setLeaving] = useState<Circuit | null>(null);
  const base = `/jobs/${jobId}`;
  const view = circuitId
    ? "circuit"
    : rest.startsWith("tables")
      ? "tables"
      : rest === "intake"
        ? "intake"
        : rest === "whole"
          ? "whole"
          : "attention";
  const check = query.get("check");
  const go = (to: string) => {
    setTreeShown(false);
    navigate(base + to);
  };
  const openCircuit = (id: string, at: string | null = null, seek = false) =>
    go(`/circuits/${id}${at ? `?check=${at}${seek ? "&seek=1" : ""}` : ""}`);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another circuit or check puts the table away
  useEffect(() => setCite(null), [circuitId, check]);
  useEffect(() => localStorage.setItem(FOLD_KEY, folded ? "1" : "0"), [folded]);
  useEffect(() => {
    document.title = name ? `${name} · Mellow Span` : "Mellow Span";
  }, [name]);

  const add = (board: string) => {
    const id = crypto.randomUUID();
    store.edit([change("add", "circuit", id, { parent: board })]);
    go(`/circuits/${id}?new=1`);
  };
  const here = inputs?.circuits.find((c) => c.id === circuitId);
  useKeys({
    n: () => {
      const board = here?.board ?? inputs?.boards[0]?.id;
      if (board) add(board);
    },
    w: () => setFolded((f) => !f),
    g: () => go(""),
    i: () => go("/intake"),
    b: () => go("/whole"),
    "?": () => setKeys(true),
  });
  const remove = () => {
    if (!leaving) return;
    store.edit([change("remove", "circuit", leaving.id)]);
    setLeaving(null);
    if (leaving.id === circuitId) go("");
  };

  if (phase.is === "gone")
    return (
      <main className="p-8">
        <h1 className="font-semibold text-xl">{phase.why}</h1>
        <button type="button" className="word mt-3" onClick={() => navigate("/")}>
          back to the jobs
        </button>
      </main>
    );
  const showWorking = view === "circuit" && !folded;
  return (
    <div className="flex h-dvh flex-col">
      <TopBar
        title={name}
        middle={<SaveState />}
        onMenu={() => setTreeShown((s) => !s)}
        onTables={() => go("/tables")}
        onKeys={() => setKeys(true)}
        onWorking={view === "circuit" ? () => setFolded((f) => !f) : undefined}
        workingShown={showWorking}
      />
      <SaveTrouble signIn={(again) => <SignIn again={again} />} />
      <div className="flex min-h-0 flex-1">
        <aside
          className={`w-60 shrink-0 overflow-auto border-hair border-r bg-paper max-lg:absolute max-lg:bottom-0 max-lg:z-10 max-lg:top-12 max-lg:w-72 ${treeShown ? "" : "max-lg:hidden"}`}
        >
          <Tree
            here={circuitId}
            view={view}
            onAttention={() => go("")}
            onIntake={() => go("/intake")}
            onWhole={() => go("/whole")}
            onCircuit={(id) => openCircuit(id)}
            onAdd={add}
            onRemove={setLeaving}
          />
        </aside>
        <main className="min-w-0 flex-1 overflow-auto" id="middle">
          {view === "attention" && (
            <AttentionPage
              onCircuit={openCircuit}
              onIntake={(field) => go(`/intake${field ? `?field=${field}` : ""}`)}
              onPart={(id) => go(`/whole?part=${id}`)}
            />
          )}
          {view === "intake" && <IntakePage field={query.get("field")} />}
          {view === "whole" && (
            <WholePage
              seek={query.get("part")}
              onCircuit={(id) => openCircuit(id)}
              onTable={(number) => go(`/tables/${encodeURIComponent(number)}`)}
            />
          )}
          {view === "circuit" && circuitId && (
            <CircuitPage
              key={circuitId}
              id={circuitId}
              check={check}
              seek={query.get("seek") === "1"}
              fresh={query.get("new") === "1"}
              onCheck={(id) => navigate(`${base}/circuits/${circuitId}?check=${id}`, { replace: true })}
              onGone={() => go("")}
            />
          )}
          {view === "tables" && (
            <TablesPage
              ruleset={inputs?.ruleset ?? "bs7671"}
              number={decodeURIComponent(rest.split("/")[1] ?? "") || null}
              onOpen={(number) => go(`/tables/${encodeURIComponent(number)}`)}
            />
          )}
          {showWorking && !wide && <div className="border-hair border-t bg-leaf">{working()}</div>}
        </main>
        {showWorking && wide && (
          <aside className="w-[21.5rem] shrink-0 overflow-auto border-hair border-l bg-leaf">{working()}</aside>
        )}
      </div>
      <KeyList open={keys} onOpenChange={setKeys} />
      <Sheet
        open={leaving !== null}
        onOpenChange={(open) => !open && setLeaving(null)}
        title={`Remove ${leaving?.name || "this circuit"}?`}
        say="Its loads and spans go with it. The history of the job keeps what it was."
      >
        <div className="mt-4 flex gap-2">
          <Button onClick={() => setLeaving(null)}>keep it</Button>
          <Button strong onClick={remove}>
            remove it
          </Button>
        </div>
      </Sheet>
    </div>
  );

  function working() {
    return (
      <Working
        result={state?.detail?.id === circuitId ? state.detail : null}
        check={check}
        cite={cite}
        onTable={setCite}
      >
        {cite && (
          <TableView
            ruleset={inputs?.ruleset ?? "bs7671"}
            number={cite.table}
            lit={{ row: cite.row, column: cite.column }}
            onClose={() => setCite(null)}
          />
        )}
      </Working>
    );
  }
}
