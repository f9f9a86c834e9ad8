import { createContext, type ReactNode, type RefObject, useContext, useEffect, useMemo, useRef } from "react";
import { ahead } from "./ahead";

/** A word as the sentences of a view know it. */
export interface Registered {
  label: string;
  /** Another name it goes by, for addresses that lead to it. */
  id: string | undefined;
  element: RefObject<HTMLElement | null>;
  missing: () => boolean;
  open: () => void;
  /** Which sentence it stands in. */
  sentence: string;
}

/** The words of a view in their order: to go on to the next, to find the first that is missing, to open one by its label. */
export class Words {
  private all = new Set<Registered>();

  add(word: Registered) {
    this.all.add(word);
    return () => {
      this.all.delete(word);
    };
  }

  private inOrder(): Registered[] {
    const there = [...this.all].filter((w) => w.element.current);
    return there.sort((a, b) => {
      const [one, two] = [a.element.current as HTMLElement, b.element.current as HTMLElement];
      return one.compareDocumentPosition(two) & Node.DOCUMENT_POSITION_FOLLOWING ? -1 : 1;
    });
  }

  /** Go on: to the next word where nothing stands yet, and open it; else to the word that follows in the same sentence. */
  goOn(from: Registered) {
    const words = this.inOrder();
    const after = words.slice(words.indexOf(from) + 1);
    const missing = after.find((w) => w.missing());
    const next = missing ?? after.find((w) => w.sentence === from.sentence) ?? from;
    next.element.current?.focus();
    // What was typed already opens the word that has the focus, as a letter typed on it does.
    if (missing || ahead.waits) next.open();
    else ahead.letGo();
  }

  focusMissing() {
    this.inOrder()
      .find((w) => w.missing())
      ?.element.current?.focus();
  }

  focus(name: string): boolean {
    const found = this.inOrder().find((w) => w.label === name || w.id === name);
    found?.element.current?.focus();
    return found !== undefined;
  }

  open(label: string) {
    this.inOrder()
      .find((w) => w.label === label)
      ?.open();
  }
}

const WordsContext = createContext<Words | null>(null);
const SentenceContext = createContext("");

/** Holds the words of a view together, over several sentences. */
export function Sentences({ children }: { children: ReactNode }) {
  const words = useMemo(() => new Words(), []);
  return <WordsContext value={words}>{children}</WordsContext>;
}

/** The words of the view around. */
export function useWords(): Words {
  const found = useContext(WordsContext);
  const alone = useMemo(() => new Words(), []);
  return found ?? alone;
}

/** Marks where a sentence begins and ends. */
export function Sentence({ id, children }: { id: string; children: ReactNode }) {
  return <SentenceContext value={id}>{children}</SentenceContext>;
}

export function useRegistered(word: Omit<Registered, "sentence">): Registered {
  const words = useWords();
  const sentence = useContext(SentenceContext);
  const mine = useRef<Registered>({ ...word, sentence });
  Object.assign(mine.current, word, { sentence });
  useEffect(() => words.add(mine.current), [words]);
  return mine.current;
}
