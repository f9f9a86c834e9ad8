import type { Shelf } from "../shelf";
import type { Item, Landed, Note, Parked } from "../state";
import type { Tabs } from "../tabs";

/** The tabs of one browser: the first that asks is the one that sends, until it closes. */
export class Browser<N = Note> {
  private all = new Set<{ hear?: (n: N) => void; elected: boolean; won?: () => void }>();
  tabs(): Tabs<N> {
    const me: { hear?: (n: N) => void; elected: boolean; won?: () => void } = { elected: false };
    this.all.add(me);
    const next = () => {
      if ([...this.all].some((t) => t.elected)) return;
      const first = [...this.all].find((t) => t.won);
      if (first) {
        first.elected = true;
        first.won?.();
      }
    };
    return {
      elect: (then) => {
        me.won = then;
        next();
      },
      tell: (n) => {
        for (const t of this.all) if (t !== me) t.hear?.(structuredClone(n));
      },
      hear: (then) => {
        me.hear = then;
      },
      close: () => {
        this.all.delete(me);
        next();
      },
    };
  }
}

/** The storage of one browser, by person, as the real one keeps it. */
export class Shelves {
  private of = new Map<
    string,
    { items: Map<string, Item>; parked: Map<string, Parked>; landed: Map<number, Landed> }
  >();
  for(person: string): Shelf {
    const mine = this.of.get(person) ?? { items: new Map(), parked: new Map(), landed: new Map() };
    this.of.set(person, mine);
    return {
      read: async () =>
        structuredClone({
          queue: [...mine.items.values()].sort((a, b) => a.seq - b.seq),
          parked: [...mine.parked.values()],
          landed: [...mine.landed.values()],
        }),
      keep: async (item) => void mine.items.set(item.id, structuredClone(item)),
      forget: async (id, landed, last) => {
        mine.items.delete(id);
        if (last) mine.landed.clear();
        else if (landed) mine.landed.set(landed.seq, landed);
      },
      park: async (parked) => {
        mine.parked.set(parked.item.id, structuredClone(parked));
        mine.items.delete(parked.item.id);
      },
      unpark: async (id) => void mine.parked.delete(id),
    };
  }
}
