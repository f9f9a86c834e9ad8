import { useState } from "react";
import type { Circuit, Span } from "../../api/types";
import { useStore } from "../../sync/job-context";
import { Button, Sheet } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { cannotCutIn, cutIn } from "./cut-in";
import { CUT_IN } from "./words";

interface Props {
  circuit: Circuit;
  spans: readonly Span[];
  span: Span;
  open: boolean;
  onClose: () => void;
}

/** A board goes in along a run: at which metre, and what it is called. One edit, taken back with one key. */
export function CutIn({ circuit, spans, span, open, onClose }: Props) {
  return (
    <Sheet open={open} onOpenChange={(now) => !now && onClose()} title={CUT_IN.title} say={CUT_IN.say}>
      {open && <Form circuit={circuit} spans={spans} span={span} onClose={onClose} />}
    </Sheet>
  );
}

function Form({ circuit, spans, span, onClose }: Omit<Props, "open">) {
  const store = useStore();
  const [metres, setMetres] = useState(String(span.length ?? ""));
  const [name, setName] = useState("");
  const cut = { spans, span: span.id, at: Number(metres.replace(",", ".")), name: name.trim() };
  const why = cannotCutIn(circuit, cut) || (cut.name === "" ? CUT_IN.needsName : "");
  return (
    <form
      className="mt-3 grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (why) return;
        store.edit(cutIn(circuit, cut).changes);
        onClose();
      }}
    >
      <label>
        <span className="block text-faded">
          {CUT_IN.metres}
          {span.length !== null && `, of ${quantity(span.length, "m")}`}
        </span>
        <input
          className={`${inputClass} figure mt-1`}
          inputMode="decimal"
          autoComplete="off"
          value={metres}
          onChange={(event) => setMetres(event.target.value)}
        />
      </label>
      <label>
        <span className="block text-faded">{CUT_IN.name}</span>
        <input
          className={`${inputClass} mt-1`}
          maxLength={200}
          autoComplete="off"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      {why && name !== "" && (
        <p role="alert" className="text-short">
          {why}
        </p>
      )}
      <p className="text-faded">{CUT_IN.after}</p>
      <p className="flex gap-2">
        <Button type="submit" strong disabled={why !== ""}>
          {CUT_IN.yes}
        </Button>
        <Button type="button" onClick={onClose}>
          cancel
        </Button>
      </p>
    </form>
  );
}
