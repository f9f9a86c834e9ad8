import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { tables } from "../api/client";
import { usePaths } from "../parts/paths";
import { ReadLine } from "../parts/read-line";
import { changesOf, useSaid } from "../parts/use-said";
import { useJob, useRules, useStore } from "../sync/job-context";
import { Sheet } from "../ui/controls";
import { ComboEditor, containing, type Option } from "../ui/editors";
import { ON_SITE, STEPS } from "./steps";
import { PALETTE } from "./words";

/** What can be done from anywhere, in words. */
export interface Command {
  title: string;
  keys?: string;
  run: () => void;
}

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  commands: readonly Command[];
  /** The board that a circuit said here starts from where the line names none. */
  board: string | null;
}

/** Everything by its name: circuits, boards, routes, views, tables, clauses, commands; and a circuit said in one line. */
export function Palette({ open, onOpenChange, ...rest }: Props) {
  return (
    <Sheet open={open} onOpenChange={onOpenChange} title={PALETTE.goSay} say={PALETTE.circuitBoardRoute} wide>
      {open && <Inside close={() => onOpenChange(false)} {...rest} />}
    </Sheet>
  );
}

/** A line that may be a circuit: a word and a number, not just a clause or a table. */
const sounds = (text: string) => /\p{L}{2,}/u.test(text) && /\d/.test(text) && /\s/.test(text.trim());
const CLAUSE = /^\d{3}(\.\d+){0,4}$/;

function Inside({ close, commands, board }: { close: () => void } & Pick<Props, "commands" | "board">) {
  const { inputs } = useJob();
  const store = useStore();
  const paths = usePaths();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const rules = useRules();
  const found = useQuery({ queryKey: ["tables", rules.id], queryFn: () => tables(rules.id) });
  const { lines } = useSaid(text, board, sounds(text));
  const heard = sounds(text) && lines[0]?.circuit ? lines[0] : null;
  const go = (to: string) => () => navigate(to);
  const places: Option<() => void>[] = [
    ...STEPS.map((s) => ({ value: go(s.path(paths)), text: s.title, note: `view  ${s.key}` })),
    { value: go(paths.whatIf), text: "What if", note: "view  q" },
    { value: go(paths.history), text: "History", note: "view  h" },
    ...ON_SITE.map((v) => ({ value: go(v.path(paths)), text: v.title, note: "view, on site", also: v.also })),
    { value: go(paths.tables), text: "Tables", note: "view" },
    { value: go(paths.books()), text: "Compare standards", note: "view", also: "rule set compare side by side" },
    ...commands.map((c) => ({ value: c.run, text: c.title, note: `command${c.keys ? `  ${c.keys}` : ""}` })),
    ...(inputs?.circuits ?? []).map((c) => ({
      value: go(paths.circuit(c.id)),
      text: c.name || "Unnamed circuit",
      note: `circuit of ${inputs?.boards.find((b) => b.id === c.board)?.name || "a board"}`,
    })),
    ...(inputs?.boards ?? []).map((b) => ({
      value: go(paths.board(b.id)),
      text: b.name || "Unnamed board",
      note: "board",
    })),
    ...(inputs?.routes ?? []).map((r) => ({
      value: go(paths.routes(r.id)),
      text: r.name || "Unnamed route",
      note: "route",
    })),
    ...(found.data ?? []).map((t) => ({
      value: go(paths.table(t.number)),
      text: `${t.number}  ${t.title}`,
      note: "table",
    })),
  ];
  const options = (typed: string) => {
    const fitting = containing(unlike(places))(typed).slice(0, 40);
    const plain = typed.trim();
    if (CLAUSE.test(plain))
      fitting.unshift({ value: go(paths.search(plain)), text: `Clause ${plain}`, note: "what it requires, where" });
    if (heard && heard.line === plain) {
      const take = () => {
        store.edit(changesOf(lines));
        navigate(paths.circuit(heard.circuit ?? ""));
      };
      fitting.unshift({ value: take, text: `New circuit: ${heard.name || "unnamed"}`, note: "typed in one line" });
    }
    return fitting;
  };
  return (
    <div className="mt-3">
      <ComboEditor
        typed=""
        close={close}
        next={close}
        label={PALETTE.nameNumberLine}
        placeholder={`kiln · ${rules.example} · cooker 7kW b32 6 flat: stud 4, joists 6`}
        options={options}
        onText={setText}
        onSave={(run) => run()}
        nothing={sounds(text) ? PALETTE.nothingNameStill : undefined}
        after={heard ? <div className="mt-2 border-hair border-t pt-2">{<ReadLine said={heard} />}</div> : null}
      />
    </div>
  );
}

/** Two things of one name are told apart, since the list knows its lines by their text. */
function unlike<T>(all: Option<T>[]): Option<T>[] {
  const seen = new Map<string, number>();
  return all.map((one) => {
    const times = (seen.get(one.text) ?? 0) + 1;
    seen.set(one.text, times);
    return times === 1 ? one : { ...one, text: `${one.text} (${times})` };
  });
}
