import type { LineSaid } from "../api/types";

/** A line as it was understood: each word read is marked in the line and told below it; what was not read is marked with the reason. */
export function ReadLine({ said }: { said: LineSaid }) {
  return (
    <div data-said={said.why || said.unread.length > 0 ? "partly" : "whole"}>
      <p className="figure leading-[1.8]">{marked(said)}</p>
      {said.why && <p className="text-short">{said.why}</p>}
      <dl className="mt-1 grid grid-cols-[minmax(5rem,auto)_1fr] gap-x-4 gap-y-0.5 sm:grid-cols-[minmax(5rem,auto)_1fr_minmax(5rem,auto)_1fr]">
        {said.words
          .filter((word) => word.told)
          .map((word) => (
            <div key={`${word.start}${word.field}`} className="contents">
              <dt className="figure truncate">{word.text}</dt>
              <dd>{word.told}</dd>
            </div>
          ))}
        {said.unread.map((one) => (
          <div key={one.start} className="contents text-short">
            <dt className="figure truncate">{one.text}</dt>
            <dd>not understood: {one.why}</dd>
          </div>
        ))}
      </dl>
      {said.assumed.map((told) => (
        <p key={told} className="mt-1">
          <span className="hatch px-1">assumed</span> {told}
        </p>
      ))}
    </div>
  );
}

/** The line with its words underlined; where two readings overlap, as of a name and the kind in it, they share the line. */
function marked(said: LineSaid) {
  const marks = Array.from(said.line, () => "");
  for (const word of said.words) marks.fill("read", word.start, word.end);
  for (const one of said.unread) marks.fill("unread", one.start, one.end);
  const runs: { text: string; mark: string; at: number }[] = [];
  Array.from(said.line).forEach((letter, at) => {
    const last = runs.at(-1);
    if (last && last.mark === marks[at]) last.text += letter;
    else runs.push({ text: letter, mark: marks[at] ?? "", at });
  });
  return runs.map((run) =>
    run.mark === "" ? (
      run.text
    ) : (
      <span
        key={run.at}
        className={run.mark === "read" ? "border-copper border-b-2" : "border-short border-b-2 text-short line-through"}
      >
        {run.text}
      </span>
    ),
  );
}
