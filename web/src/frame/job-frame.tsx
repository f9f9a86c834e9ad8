import { useEffect, useState } from "react";
import { Link, Outlet, useLocation, useNavigate, useParams } from "react-router";
import { jobFile } from "../api/client";
import type { Circuit } from "../api/types";
import { SaySheet } from "../features/say/say-sheet";
import { SignIn } from "../features/session/sign-in";
import { usePaths } from "../parts/paths";
import { useTakeAlong } from "../parts/take-along";
import { change, useJob, useStore } from "../sync/job-context";
import { Ask } from "../ui/ask";
import { useKeys } from "../ui/keys";
import { remembered } from "../ui/remembered";
import { save } from "../ui/save";
import { Sentences } from "../ui/sentence";
import { View } from "../ui/view";
import { KeyList } from "./key-list";
import { type Command, Palette } from "./palette";
import { ProposalBar } from "./proposal-bar";
import { SaveState } from "./save-state";
import { SaveTrouble } from "./save-trouble";
import { Side } from "./side";
import { STEPS } from "./steps";
import { ThumbBar } from "./thumb-bar";
import { TopBar } from "./top-bar";
import { Tree } from "./tree";
import { GONE, JOB_FRAME } from "./words";

/** What the frame gives the view inside it. */
export interface Framed {
  workingFolded: boolean;
}

/** What a circuit's id looks like: an address typed or cut short is nobody's circuit, and no question to the server. */
const AN_ID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;

const FOLD_KEY = "mellow-span/working-folded";

/** A job: tree at left, the view of the address in the middle. */
export function JobFrame() {
  const { circuitId = null, boardId = null } = useParams();
  const at = useLocation();
  const paths = usePaths();
  const navigate = useNavigate();
  const store = useStore();
  const { inputs, name, flow, state } = useJob();
  const [folded, setFolded] = useState(() => remembered.get(FOLD_KEY) === "1");
  const [treeShown, setTreeShown] = useState(false);
  const [keys, setKeys] = useState(false);
  const [palette, setPalette] = useState(false);
  const [noFile, setNoFile] = useState("");
  /** The board that gets a new circuit, while it is being said. */
  useTakeAlong();
  const [saying, setSaying] = useState<string | null>(null);
  const [leaving, setLeaving] = useState<Circuit | null>(null);
  useEffect(() => {
    remembered.set(FOLD_KEY, folded ? "1" : "0");
  }, [folded]);
  useEffect(() => {
    document.title = name ? `${name} · Mellow Span` : "Mellow Span";
  }, [name]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: going anywhere puts the tree away on a small screen
  useEffect(() => setTreeShown(false), [at.pathname]);
  const wanted = circuitId !== null && AN_ID.test(circuitId) ? circuitId : null;
  useEffect(() => store.look(wanted), [store, wanted]);

  const addEmpty = (board: string) => {
    const id = crypto.randomUUID();
    store.edit([change("add", "circuit", id, { parent: board })]);
    navigate(paths.circuit(id, { fresh: true }));
  };
  const here = inputs?.circuits.find((c) => c.id === circuitId);
  const board = here?.board ?? inputs?.boards.find((b) => b.id === boardId)?.id ?? inputs?.boards[0]?.id ?? null;
  const say = () => setSaying(board);
  const commands: Command[] = [
    { title: "New circuit", keys: "n", run: say },
    { title: "Undo my last change", keys: "Ctrl Z", run: store.undo },
    { title: "Redo", keys: "Ctrl ⇧ Z", run: store.redo },
    { title: "Show or hide the working", keys: "w", run: () => setFolded((f) => !f) },
    { title: "Keys", keys: "?", run: () => setKeys(true) },
    { title: "Size every cable in the job together", run: () => navigate(`${paths.boards}?sizes=1`) },
    { title: "Maximum demand, client view", run: () => navigate(`${paths.demand}?client=1`) },
    {
      title: "Save the job as a file",
      run: () =>
        void jobFile(store.job).then(
          ({ name, file }) => save(file, name),
          (e: Error) => setNoFile(e.message),
        ),
    },
    { title: "Practice", run: () => navigate("/practice") },
    { title: "Tables of your own", run: () => navigate("/packs") },
    { title: "All jobs", run: () => navigate("/") },
  ];
  useKeys(
    {
      ...Object.fromEntries(STEPS.map((s) => [s.key, () => navigate(s.path(paths))])),
      n: say,
      w: () => setFolded((f) => !f),
      q: () => navigate(paths.whatIf),
      h: () => navigate(paths.history),
      "/": () => setPalette(true),
      "?": () => setKeys(true),
    },
    { undo: store.undo, redo: store.redo, palette: () => setPalette(true) },
  );
  const remove = () => {
    if (!leaving) return;
    store.edit([change("remove", "circuit", leaving.id)]);
    setLeaving(null);
    if (leaving.id === circuitId) navigate(paths.attention);
  };

  if (flow.is === "gone")
    return (
      <>
        <SaveTrouble signIn={(then) => <SignIn then={then} />} />
        <main className="p-8">
          <h1 className="font-semibold text-xl">{flow.why}</h1>
          <p className="mt-2 max-w-prose">{GONE}</p>
          <Link className="word mt-3 inline-block" to="/">
            {JOB_FRAME.backJobs}
          </Link>
        </main>
      </>
    );
  const framed: Framed = { workingFolded: folded };
  return (
    <div className="flex h-dvh flex-col">
      <TopBar
        title={name}
        middle={<SaveState />}
        onMenu={() => setTreeShown((s) => !s)}
        inJob
        onKeys={() => setKeys(true)}
        onPalette={() => setPalette(true)}
        onWorking={circuitId ? () => setFolded((f) => !f) : undefined}
        workingShown={circuitId !== null && !folded}
      />
      <SaveTrouble signIn={(then) => <SignIn then={then} />} />
      {noFile && (
        <p role="alert" className="bg-leaf px-5 py-2 text-short">
          {noFile}{" "}
          <button type="button" className="word" onClick={() => setNoFile("")}>
            {JOB_FRAME.close}
          </button>
        </p>
      )}
      <ProposalBar />
      {(state?.unfit.length ?? 0) > 0 && (
        <div role="status" className="border-hair border-b bg-leaf px-5 py-2">
          <strong>{JOB_FRAME.storedOlderVersion}</strong>{" "}
          {state?.unfit.map((p) => `${p.given} (allowed: ${p.allowed})`).join("; ")}. Enter{" "}
          {state?.unfit.length === 1 ? "it" : "them"} again.
        </div>
      )}
      {state?.trouble && (
        <div role="alert" className="border-short border-b-2 bg-leaf px-5 py-2">
          <strong>{JOB_FRAME.noResultsYet}</strong> {state.trouble} {JOB_FRAME.everythingEnteredHere}
        </div>
      )}
      <div className="flex min-h-0 flex-1">
        <Side shown={treeShown}>
          <View name={JOB_FRAME.tree}>
            <Tree here={circuitId} onAdd={setSaying} onRemove={setLeaving} />
          </View>
        </Side>
        {!state && flow.is === "resting" ? (
          <main className="p-6" role="status">
            <h1 className="font-semibold text-xl">{JOB_FRAME.serverCannotReached}</h1>
            <p className="mt-1 max-w-prose">{JOB_FRAME.tryingAgainEvery}</p>
            <button type="button" className="word mt-3" onClick={store.again}>
              {JOB_FRAME.tryNow}
            </button>
          </main>
        ) : null}
        <View name={at.pathname.split("/")[3] ?? "attention"} reset={at.pathname}>
          <Sentences>
            <Outlet context={framed} />
          </Sentences>
        </View>
      </div>
      {circuitId === null && <ThumbBar />}
      <Palette open={palette} onOpenChange={setPalette} commands={commands} board={board} />
      <SaySheet
        board={saying}
        onClose={() => setSaying(null)}
        onEmpty={addEmpty}
        onAdded={(id) => navigate(paths.circuit(id, { seek: true }))}
      />
      <KeyList open={keys} onOpenChange={setKeys} />
      <Ask
        open={leaving !== null}
        title={`Remove ${leaving?.name || "this circuit"}?`}
        say={JOB_FRAME.loadsSpansGo}
        yes="remove it"
        onYes={remove}
        onClose={() => setLeaving(null)}
      />
    </div>
  );
}
