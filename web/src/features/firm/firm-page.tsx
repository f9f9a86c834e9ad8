import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import {
  firm,
  giveRole,
  handOver,
  invite,
  type Member,
  type Role,
  removeMember,
  renameFirm,
  takeBackInvitation,
  wayBack,
} from "../../api/client";
import { askAnew } from "../../parts/ask-anew";
import { Ask } from "../../ui/ask";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { OnceShown } from "../../ui/once-shown";
import { dayOf } from "../../ui/time";
import { FirmEvents } from "./firm-events";
import { ROLES } from "./roles";
import { ASKED, FIRM } from "./words";

type Leaving = { member: Member; how: "remove" | "leave" | "hand over" };

/** The firm: who is in it and what they may do, who is invited, what happened. */
export function FirmPage() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const found = useQuery({ queryKey: ["firm"], queryFn: firm });
  const [leaving, setLeaving] = useState<Leaving | null>(null);
  const again = () => {
    setLeaving(null);
    void askAnew(client, ["firm"]);
    void askAnew(client, ["firm-events"]);
    void askAnew(client, ["who"]);
  };
  const role = useMutation({
    mutationFn: ({ id, to }: { id: number; to: Role }) => giveRole(id, to),
    onSettled: again,
  });
  const go = useMutation({
    mutationFn: async ({ member, how }: Leaving) => {
      if (how === "hand over") await handOver(member.id);
      else await removeMember(member.id);
      return how;
    },
    onSuccess: (how) => {
      again();
      if (how === "leave") navigate("/");
    },
  });
  const takeBack = useMutation({ mutationFn: takeBackInvitation, onSettled: again });
  const back = useMutation({ mutationFn: wayBack, onSuccess: again });
  if (found.isPending) return <p className="p-8 text-faded">{FIRM.openingFirm}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const { members, invitations, former, name, key } = found.data;
  const supervises = members.some((m) => m.me && m.role === "supervisor");
  const trouble = role.error ?? takeBack.error ?? back.error;
  return (
    <main className="mx-auto max-w-3xl px-6 py-8 max-sm:px-3">
      <FirmName name={name} editable={supervises} onDone={again} />
      <p className="mt-1 text-faded">{FIRM.supervisorInvitesPeople}</p>
      {trouble && (
        <p role="alert" className="mt-2 text-short">
          {trouble.message}
        </p>
      )}
      <h2 className="mt-6 font-semibold text-xl">{FIRM.members}</h2>
      <ul className="mt-2" aria-label={FIRM.members}>
        {members.map((m) => (
          <li
            key={m.id}
            data-member={m.username}
            className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-hair border-t py-2"
          >
            <div className="min-w-44 flex-1">
              <span className="font-semibold">{m.name}</span> {m.me && <span className="text-faded">you</span>}
              <p className="text-faded">
                signs in as {m.username}, joined {dayOf(m.joined)}
              </p>
            </div>
            {supervises ? (
              <select
                className={`${inputClass} max-w-36`}
                aria-label={`Role of ${m.name}`}
                value={m.role}
                onChange={(event) => role.mutate({ id: m.id, to: event.target.value as Role })}
              >
                {Object.keys(ROLES).map((r) => (
                  <option key={r}>{r}</option>
                ))}
              </select>
            ) : (
              <span>{m.role}</span>
            )}
            {supervises && !m.me && m.role !== "supervisor" && (
              <button type="button" className="word" onClick={() => setLeaving({ member: m, how: "hand over" })}>
                {FIRM.handOver}
              </button>
            )}
            {supervises && !m.me && (
              <button
                type="button"
                className="word text-faded"
                aria-label={`${FIRM.wayBack} for ${m.name}`}
                onClick={() => back.mutate(m.id)}
              >
                {FIRM.wayBack}
              </button>
            )}
            {(supervises || m.me) && (
              <button
                type="button"
                className="word text-faded"
                aria-label={m.me ? "leave the firm" : `remove ${m.name}`}
                onClick={() => setLeaving({ member: m, how: m.me ? "leave" : "remove" })}
              >
                {m.me ? "leave" : "remove"}
              </button>
            )}
          </li>
        ))}
      </ul>
      {back.data && (
        <OnceShown
          say={`The link for ${back.data.name}, works once, until ${dayOf(back.data.ends)}. It is shown only now: send it to them yourself. ${FIRM.wayBackSay}`}
          text={`${globalThis.location.origin}/join/${back.data.token}`}
        />
      )}
      <dl className="mt-3 grid grid-cols-[8rem_1fr] gap-x-3 text-faded max-sm:grid-cols-1">
        {Object.entries(ROLES).map(([r, may]) => (
          <div key={r} className="contents">
            <dt>{r}</dt>
            <dd>{may}</dd>
          </div>
        ))}
      </dl>
      {supervises && <Invite onDone={again} />}
      {invitations.length > 0 && (
        <>
          <h3 className="mt-5 font-semibold">{FIRM.invitedNotJoined}</h3>
          <ul className="mt-1" aria-label={FIRM.invitations}>
            {invitations.map((one) => (
              <li key={one.id} className="flex flex-wrap items-baseline gap-x-4 border-hair border-t py-2">
                <span className="flex-1">
                  {one.name}, {one.username ? `a new password for ${one.username}` : `as ${one.role}`}; link expires{" "}
                  {dayOf(one.ends)}
                </span>
                <button
                  type="button"
                  className="word text-faded"
                  aria-label={`withdraw it: the invitation of ${one.name}`}
                  onClick={() => takeBack.mutate(one.id)}
                >
                  {FIRM.withdraw}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
      {former.length > 0 && (
        <>
          <h3 className="mt-5 font-semibold">{FIRM.former}</h3>
          <p className="text-faded">{FIRM.formerSay}</p>
          <ul className="mt-1" aria-label={FIRM.former}>
            {former.map((m) => (
              <li key={m.id} className="flex flex-wrap items-baseline gap-x-4 border-hair border-t py-2">
                <span className="flex-1">
                  {m.name}, signed in as {m.username}
                </span>
                <button
                  type="button"
                  className="word"
                  aria-label={`${FIRM.inviteAgain}: ${m.name}`}
                  onClick={() => back.mutate(m.id)}
                >
                  {FIRM.inviteAgain}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
      {key !== "" && (
        <>
          <h2 className="mt-6 font-semibold text-xl">{FIRM.key}</h2>
          <p className="mt-1 text-faded">{FIRM.keySay}</p>
          <p className="figure mt-1 break-words" data-key>
            {key.match(/.{1,4}/g)?.join(" ")}
          </p>
        </>
      )}
      {supervises && <FirmEvents />}
      <Ask
        open={leaving !== null}
        title={leaving ? ASKED[leaving.how].title(leaving.member.name) : ""}
        say={leaving ? ASKED[leaving.how].say : ""}
        yes={leaving?.how === "hand over" ? "hand over" : leaving?.how === "leave" ? "leave the firm" : "remove them"}
        onYes={() => leaving && go.mutate(leaving)}
        onClose={() => {
          setLeaving(null);
          go.reset();
        }}
      >
        {go.error && <p className="mt-2 text-short">{go.error.message}</p>}
      </Ask>
    </main>
  );
}

function FirmName({ name, editable, onDone }: { name: string; editable: boolean; onDone: () => void }) {
  const [text, setText] = useState<string | null>(null);
  const rename = useMutation({
    mutationFn: renameFirm,
    onSuccess: () => {
      setText(null);
      onDone();
    },
  });
  if (text === null)
    return (
      <h1 className="font-semibold text-2xl">
        {name}{" "}
        {editable && (
          <button type="button" className="word font-normal text-base" onClick={() => setText(name)}>
            rename
          </button>
        )}
      </h1>
    );
  return (
    <form
      className="flex max-w-md gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        rename.mutate(text);
      }}
    >
      <input
        className={inputClass}
        aria-label={FIRM.nameFirm}
        maxLength={120}
        required
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === "Escape" && setText(null)}
      />
      <Button strong type="submit">
        rename
      </Button>
      {rename.error && <span className="text-short">{rename.error.message}</span>}
    </form>
  );
}

function Invite({ onDone }: { onDone: () => void }) {
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("designer");
  const asked = useMutation({
    mutationFn: () => invite(name, role),
    onSuccess: () => {
      setName("");
      onDone();
    },
  });
  return (
    <section className="mt-6" aria-label={FIRM.inviteSomebody}>
      <h2 className="font-semibold text-xl">{FIRM.inviteSomebody}</h2>
      <form
        className="mt-2 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          asked.mutate();
        }}
      >
        <label className="min-w-52 flex-1">
          <span className="block text-faded">{FIRM.theirNameShown}</span>
          <input
            className={`${inputClass} mt-1`}
            maxLength={120}
            required
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-faded">as</span>
          <select
            aria-label={FIRM.rolePersonInvited}
            className={`${inputClass} mt-1 w-auto`}
            value={role}
            onChange={(event) => setRole(event.target.value as Role)}
          >
            {Object.keys(ROLES).map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
        <Button strong type="submit" disabled={asked.isPending}>
          {FIRM.makeLink}
        </Button>
      </form>
      {asked.error && (
        <p role="alert" className="mt-1 text-short">
          {asked.error.message}
        </p>
      )}
      {asked.data && (
        <OnceShown
          say={`The link for ${asked.data.name}, works once, until ${dayOf(asked.data.ends)}. It is shown only now: send it to them yourself.`}
          text={`${globalThis.location.origin}/join/${asked.data.token}`}
        />
      )}
    </section>
  );
}
