/**
 * Small things this browser remembers: what is folded, how wide a column is, what was read. Where it denies its storage or that is full they hold for
 * this page alone; nothing that somebody designs or writes down on site is kept here.
 */
const ofPage = new Map<string, string | null>();

/** The storage of this browser, null where it is denied. */
export function stored(): Storage | null {
  try {
    return globalThis.localStorage ?? null;
  } catch {
    // Asking for it is refused where all storage is blocked.
    return null;
  }
}

export const remembered = {
  /** What was remembered, null where nothing is. */
  get(key: string): string | null {
    const here = ofPage.get(key);
    if (here !== undefined) return here;
    try {
      return stored()?.getItem(key) ?? null;
    } catch {
      return null;
    }
  },
  /** Remember a text, null to forget it. Says whether it outlives this page. */
  set(key: string, value: string | null): boolean {
    try {
      const storage = stored();
      if (value === null) storage?.removeItem(key);
      else storage?.setItem(key, value);
      ofPage.delete(key);
      if (storage) return true;
    } catch {
      // Full or denied: this page still knows.
    }
    ofPage.set(key, value);
    return false;
  },
  /** What was remembered as data; the other where nothing is, or what is there cannot be read. */
  data<T>(key: string, other: T): T {
    try {
      return (JSON.parse(remembered.get(key) ?? "null") as T | null) ?? other;
    } catch {
      return other;
    }
  },
};
