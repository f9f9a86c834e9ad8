import { useRef, useState } from "react";
import { said } from "../../api/client";
import type { Change, Circuit, Load } from "../../api/types";
import { changesOf } from "../../parts/use-said";
import { change, setFields, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { inputClass } from "../../ui/editors";
import { useOnce } from "../../ui/once";
import { exact, watts } from "../../ui/quantity";
import { ROOMS } from "./words";

interface Entry {
  load: Load;
  circuit: Circuit;
}

/** Rooms and their loads as the client names them, with what may come later; a new one gets a circuit of its own until it is laid out. */
export function Rooms({ client, onCircuit }: { client?: boolean; onCircuit: (id: string) => void }) {
  const store = useStore();
  const { inputs } = useJob();
  const entries: Entry[] = (inputs?.circuits ?? []).flatMap((circuit) =>
    circuit.loads.map((load) => ({ load, circuit })),
  );
  const rooms = [...new Set(entries.map((e) => e.load.room))].sort((a, b) =>
    a === "" ? 1 : b === "" ? -1 : a.localeCompare(b),
  );
  return (
    <section className="mt-6" aria-label={ROOMS.roomsLoads}>
      {!client && <h2 className="font-semibold text-xl">{ROOMS.roomsLoads}</h2>}
      {rooms.map((room) => (
        <div key={room} className="mt-3" data-room={room}>
          <h3 className="border-hair border-b font-semibold">{room || (client ? "Other rooms" : ROOMS.noRoomGiven)}</h3>
          <ul>
            {entries
              .filter((e) => e.load.room === room)
              .map(({ load, circuit }) => (
                <li
                  key={load.id}
                  data-load={load.id}
                  className={`grid items-baseline gap-x-3 py-0.5 max-sm:grid-cols-2 max-sm:border-hair max-sm:border-t max-sm:py-1 ${client ? "grid-cols-[1fr_9rem_12rem]" : "grid-cols-[1fr_7rem_9rem_1fr_9rem]"}`}
                >
                  <span>{load.name || "unnamed"}</span>
                  <span className="figure">{amountOf(load)}</span>
                  <label className="inline-flex items-center gap-2">
                    <input
                      type="checkbox"
                      checked={load.future}
                      onChange={(event) => store.edit([setFields("load", load.id, { future: event.target.checked })])}
                    />
                    future load
                  </label>
                  {!client && (
                    <>
                      <button type="button" className="word justify-self-start" onClick={() => onCircuit(circuit.id)}>
                        {circuit.name || "an unnamed circuit"}
                      </button>
                      <RoomField load={load} rooms={rooms.filter(Boolean)} />
                    </>
                  )}
                </li>
              ))}
          </ul>
        </div>
      ))}
      <AddLoad rooms={rooms.filter(Boolean)} client={client === true} />
    </section>
  );
}

function amountOf(load: Load): string {
  if (load.basis === "In") return "full rating";
  if (load.amount === null) return "ask client";
  const one = load.basis === "W" ? watts(load.amount) : `${exact(load.amount)} A`;
  return load.quantity > 1 ? `${load.quantity} × ${one}` : one;
}

function RoomField({ load, rooms }: { load: Load; rooms: readonly string[] }) {
  const store = useStore();
  const draft = useDraft(load.room);
  return (
    <input
      className={`${inputClass} py-0.5`}
      aria-label={`Room of ${load.name || "the load"}`}
      placeholder="room"
      list="rooms-of-the-house"
      maxLength={200}
      autoComplete="off"
      {...draft.events}
      value={draft.text}
      data-rooms={rooms.length}
      onKeyDown={(event) => {
        draft.events.onKeyDown(event);
        if (event.key === "Enter") event.currentTarget.blur();
      }}
      onBlur={() => {
        draft.leave();
        if (draft.text.trim() !== load.room) store.edit([setFields("load", load.id, { room: draft.text.trim() })]);
      }}
    />
  );
}

/** A load said as the client says it, in a room; it goes on a circuit of its own until the boards are laid out. */
function AddLoad({ rooms, client }: { rooms: readonly string[]; client: boolean }) {
  const store = useStore();
  const { inputs } = useJob();
  const [room, setRoom] = useState("");
  const [text, setText] = useState("");
  const [later, setLater] = useState(false);
  const [why, setWhy] = useState("");
  const once = useOnce();
  const typed = useRef(text);
  typed.current = text;
  const add = async () => {
    const board = inputs?.boards[0]?.id ?? null;
    if (text.trim() === "") return;
    try {
      const lines = await said(store.job, text.trim(), board);
      const changes = changesOf(lines);
      const loads = changes.filter((c) => c.kind === "load");
      const unread = lines.flatMap((l) => l.unread);
      if (loads.length === 0 || unread.length > 0) {
        setWhy(unread[0] ? `“${unread[0].text}” was not understood: ${unread[0].why}` : ROOMS.typeRatingWhat);
        return;
      }
      store.edit(
        changes.map(
          (c): Change =>
            c.kind === "load"
              ? change("add", "load", c.id, {
                  parent: c.parent ?? null,
                  fields: { ...c.fields, room: room.trim(), ...(later ? { future: true } : {}) },
                })
              : c,
        ),
      );
      setWhy("");
      // What was typed while the answer was on its way stays.
      if (typed.current !== text) return;
      setText("");
      setLater(false);
    } catch (error) {
      setWhy(error instanceof Error ? `${error.message} What you typed is still here.` : "no answer");
    }
  };
  return (
    <form
      className="mt-4 border-hair border-t pt-3"
      aria-label={ROOMS.addLoad}
      onSubmit={(event) => {
        event.preventDefault();
        void once(text, add);
      }}
    >
      <datalist id="rooms-of-the-house">
        {rooms.map((r) => (
          <option key={r} value={r} />
        ))}
      </datalist>
      <div className="grid max-w-4xl grid-cols-[12rem_1fr_auto_auto] items-center gap-3 max-sm:grid-cols-1">
        <input
          className={inputClass}
          aria-label={ROOMS.room}
          placeholder="room"
          list="rooms-of-the-house"
          value={room}
          maxLength={200}
          autoComplete="off"
          onChange={(event) => setRoom(event.target.value)}
        />
        <input
          className={inputClass}
          aria-label={ROOMS.loadClientNames}
          aria-invalid={why !== ""}
          placeholder={ROOMS.of92Kw}
          value={text}
          autoComplete="off"
          onChange={(event) => {
            setText(event.target.value);
            setWhy("");
          }}
        />
        <label className="inline-flex items-center gap-2 whitespace-nowrap">
          <input type="checkbox" checked={later} onChange={(event) => setLater(event.target.checked)} />
          future load
        </label>
        <Button type="submit" strong>
          add
        </Button>
      </div>
      {why && (
        <p role="alert" className="mt-1 text-short">
          {why}
        </p>
      )}
      {!client && <p className="mt-1 text-faded">{ROOMS.getsOwnCircuit}</p>}
    </form>
  );
}
