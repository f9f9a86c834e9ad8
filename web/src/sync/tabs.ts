/** The tabs of one person on one kind of unsent work of one job: one of them sends, all of them hear what it did. */
export interface Tabs<N> {
  /** Ask to be the one that sends; `then` when it is so, at once or when the one before has gone; `lost` when another took it over. */
  elect(then: () => void, lost: () => void): void;
  tell(note: N): void;
  hear(then: (note: N) => void): void;
  close(): void;
}

/** What tabs say to each other beside notes: whether the one that sends is awake. */
type Life = "mellow-span: awake?" | "mellow-span: awake";
const ASK: Life = "mellow-span: awake?";
const AWAKE: Life = "mellow-span: awake";
const ASK_MS = 5000;
/** Questions without an answer after which a tab counts as asleep: a phone stops the pages behind the one in use, with all they hold. */
const UNANSWERED = 2;

const onScreen = () => globalThis.document?.visibilityState !== "hidden";

/** seen: whether somebody looks at this tab; one behind another asks nobody. */
export function tabsOf<N>(name: string, seen: () => boolean = onScreen): Tabs<N> {
  const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(name);
  const leaving = new AbortController();
  let release = () => {};
  let holds = false;
  let asked = 0;
  let asking: ReturnType<typeof setInterval> | undefined;

  const seat = (then: () => void) => {
    clearInterval(asking);
    holds = true;
    then();
    return new Promise<void>((done) => {
      release = done;
    });
  };
  /** While another tab sends: where it does not answer, this one takes over. */
  const watch = (take: () => void) => {
    asked = 0;
    clearInterval(asking);
    asking = setInterval(() => {
      if (!seen()) return;
      if (asked >= UNANSWERED) return take();
      asked += 1;
      channel?.postMessage(ASK);
    }, ASK_MS);
  };
  channel?.addEventListener("message", ({ data }) => {
    if (data === ASK && holds) channel.postMessage(AWAKE);
    if (data === AWAKE) asked = 0;
  });

  return {
    elect(then, lost) {
      const locks = globalThis.navigator?.locks;
      if (!locks) return then();
      const queue = (steal: boolean) => {
        const waits = new AbortController();
        const left = () => waits.abort();
        leaving.signal.addEventListener("abort", left);
        // A lock that is taken over cannot be waited for at the same time.
        const how = steal ? { steal } : { signal: waits.signal };
        let won = false;
        const held = locks.request(name, how, () => {
          won = true;
          return seat(then);
        });
        if (!steal && !holds)
          watch(() => {
            waits.abort();
            queue(true);
          });
        held.catch(() => {
          if (!won || leaving.signal.aborted) return;
          // Another tab took it over, since this one slept.
          holds = false;
          lost();
          queue(false);
        });
      };
      queue(false);
    },
    tell: (note) => channel?.postMessage(note),
    hear(then) {
      channel?.addEventListener("message", ({ data }) => data !== ASK && data !== AWAKE && then(data as N));
    },
    close() {
      leaving.abort();
      clearInterval(asking);
      release();
      channel?.close();
    },
  };
}
