import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { history } from "../../api/client";
import type { EditLine } from "../../api/types";
import { useJob, useStore } from "../../sync/job-context";
import { Ask } from "../../ui/ask";
import { Button, Command } from "../../ui/controls";
import { glued } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { Opening } from "../../ui/view";
import { HISTORY } from "./words";

const ACT: Record<EditLine["act"], (line: EditLine) => string> = {
  edit: () => "",
  undo: (line) => `undid version ${line.of}`,
  redo: (line) => `redid version ${line.of}`,
  back: (line) => `went back to version ${line.of}`,
};

/** Everything that was done to the job, in words, newest first; any version can be gone back to. */
export function HistoryPage() {
  const store = useStore();
  const { state, unsent } = useJob();
  const [going, setGoing] = useState<EditLine | null>(null);
  const version = state?.version ?? 0;
  const found = useInfiniteQuery({
    queryKey: ["history", store.job, version],
    queryFn: ({ pageParam }) => history(store.job, pageParam),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.more ? last.lines.at(-1)?.version : undefined),
    placeholderData: (before) => before,
    enabled: state !== null,
    retry: false,
  });
  const lines = found.data?.pages.flatMap((p) => p.lines) ?? [];
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{HISTORY.history}</h1>
      <p className="mt-1 text-faded">{HISTORY.everyChangeSaved}</p>
      <p className="mt-3 flex gap-4">
        <Command keys="Ctrl Z" onClick={store.undo}>
          undo
        </Command>
        <Command keys="Ctrl ⇧ Z" onClick={store.redo}>
          redo
        </Command>
      </p>
      {unsent > 0 && <p className="mt-2">{HISTORY.unsentChangesCome}</p>}
      {found.isPending && <Opening />}
      {found.error && <Opening trouble={found.error.message} again={() => void found.refetch()} />}
      {found.data && lines.length === 0 && <p className="mt-6 text-faded">{HISTORY.nothingHasBeen}</p>}
      <ol className="mt-3">
        {lines.map((line, i) => (
          <li key={line.version} data-version={line.version}>
            {dayOf(line.at) !== (lines[i - 1] && dayOf(lines[i - 1]?.at ?? "")) && (
              <h2 className="mt-4 font-semibold">{dayOf(line.at)}</h2>
            )}
            <div className="grid grid-cols-[4rem_1fr_auto] items-baseline gap-x-4 border-hair border-t py-2 max-sm:grid-cols-[4rem_1fr]">
              <time className="figure text-faded" dateTime={line.at}>
                {clockOf(line.at)}
              </time>
              <div>
                {ACT[line.act](line) && <p className="text-faded">{ACT[line.act](line)}</p>}
                <ul>
                  {line.said.slice(0, 8).map((words) => (
                    <li key={words}>{glued(words)}</li>
                  ))}
                  {line.said.length > 8 && <li className="text-faded">and {line.said.length - 8} more</li>}
                  {line.said.length === 0 && <li className="text-faded">{HISTORY.noVisibleChange}</li>}
                </ul>
                <p className="text-faded">
                  version {line.version}, by {line.mine ? "you" : line.by || "someone who has left"}
                </p>
              </div>
              {line.version === version ? (
                <span className="text-faded">{HISTORY.now}</span>
              ) : (
                line.reachable && <Button onClick={() => setGoing(line)}>{HISTORY.goBackHere}</Button>
              )}
            </div>
          </li>
        ))}
        {!found.hasNextPage && found.data && version > 1 && lines.at(-1)?.version === 2 && lines.at(-1)?.reachable && (
          <li className="grid grid-cols-[4rem_1fr_auto] items-baseline gap-x-4 border-hair border-t py-2">
            <span />
            <span className="text-faded">{HISTORY.version1Created}</span>
            <Button onClick={() => setGoing({ ...(lines.at(-1) as EditLine), version: 1 })}>
              {HISTORY.goBackHere}
            </Button>
          </li>
        )}
      </ol>
      {found.hasNextPage && (
        <Button className="mt-3" onClick={() => void found.fetchNextPage()}>
          older
        </Button>
      )}
      <Ask
        open={going !== null}
        title={`Go back to version ${going?.version}?`}
        say={HISTORY.jobReturnsHow}
        yes="go back"
        no="cancel"
        onYes={() => {
          if (going) store.back(going.version);
          setGoing(null);
        }}
        onClose={() => setGoing(null)}
      />
    </div>
  );
}
