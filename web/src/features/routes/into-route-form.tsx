import { useId, useState } from "react";
import type { Route } from "../../api/types";
import { More } from "../../parts/more";
import { useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass, Why } from "../../ui/editors";
import { intoRoute, named, outside, spanFor } from "./into-route";
import { INTO_ROUTE } from "./words";

/** Many circuits into a route by one act: ticked, or pasted by name. */
export function IntoRoute({ route }: { route: Route }) {
  const store = useStore();
  const { inputs } = useJob();
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [text, setText] = useTyped(`into-route/${route.id}`);
  const id = useId();
  if (!inputs) return null;
  const circuits = outside(inputs.circuits, route);
  const boards = new Map(inputs.boards.map((b) => [b.id, b.name || "a board"]));
  const { found, unknown } = named(text, circuits);
  const chosen = circuits.filter((c) => ticked.has(c.id) || found.includes(c));
  const put = () => {
    store.edit(intoRoute(chosen, route, () => crypto.randomUUID()));
    setTicked(new Set());
    setText("");
  };
  const toggle = (circuit: string) => {
    const now = new Set(ticked);
    if (!now.delete(circuit)) now.add(circuit);
    setTicked(now);
  };
  if (circuits.length === 0) return null;
  return (
    <More title={INTO_ROUTE.putIn} note={INTO_ROUTE.byOne}>
      <p className="max-w-prose text-faded">{INTO_ROUTE.how}</p>
      <ul className="mt-2 grid grid-cols-2 gap-x-6 max-md:grid-cols-1" aria-label={INTO_ROUTE.circuits}>
        {circuits.map((c) => (
          <li key={c.id}>
            <label className="flex min-h-8 items-center gap-2">
              <input
                type="checkbox"
                checked={ticked.has(c.id) || found.includes(c)}
                onChange={() => toggle(c.id)}
                disabled={found.includes(c)}
              />
              <span>
                {c.name || "Unnamed circuit"}{" "}
                <span className="text-faded">
                  {boards.get(c.board)}
                  {spanFor(c, route) && `, its span ${spanFor(c, route)?.name || "of this installation method"}`}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      <label className="mt-3 block" htmlFor={id}>
        {INTO_ROUTE.paste}
      </label>
      <textarea
        id={id}
        className={`${inputClass} mt-1 w-full max-w-prose`}
        rows={3}
        value={text}
        aria-invalid={unknown.length > 0}
        aria-describedby={`${id}-why`}
        onChange={(event) => setText(event.target.value)}
      />
      <Why id={id} text={unknown.length > 0 ? `${INTO_ROUTE.unknown}${unknown.join(", ")}` : ""} />
      <Button className="mt-3" disabled={chosen.length === 0} onClick={put}>
        {chosen.length === 1 ? "put 1 circuit in" : `put ${chosen.length} circuits in`}
      </Button>
    </More>
  );
}
