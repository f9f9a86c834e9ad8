import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type InputHTMLAttributes, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { ApiError, join, openInvitation } from "../../api/client";
import { takeIn, useWho } from "../../parts/person";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { ROLES } from "./roles";
import { JOIN } from "./words";

/** What an invitation's link opens: join the firm, as somebody new or as the person signed in; or set a new password, to come back. */
export function JoinPage() {
  const { token = "" } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const me = useWho();
  const found = useQuery({ queryKey: ["invitation", token], queryFn: () => openInvitation(token), retry: false });
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [fresh, setFresh] = useState(false);
  const go = useMutation({
    mutationFn: (typed: boolean) => join(token, typed ? { username, password, code } : {}),
    onSuccess: (mine) => {
      takeIn(client, mine);
      navigate("/");
    },
  });
  if (me.isPending || found.isPending) return <p className="p-8 text-faded">{JOIN.oneMoment}</p>;
  const signedIn = me.data?.signed_in;
  const back = found.data?.username ?? "";
  const wantsCode =
    code !== "" || (go.error instanceof ApiError && go.error.refusal.errors.some((e) => e.field === "code"));
  return (
    <main className="mx-auto max-w-3xl px-6 py-16">
      <h1 className="font-semibold text-3xl">{JOIN.mellowSpan}</h1>
      {found.error ? (
        <p role="alert" className="mt-4">
          {JOIN.invitationHasBeen}
        </p>
      ) : (
        <>
          <p className="mt-4 text-lg">
            {back ? (
              <>
                {found.data.name}, set a new password for <strong>{back}</strong> at {found.data.firm}, as{" "}
                {found.data.role}.
              </>
            ) : (
              <>
                {found.data.name}, you are invited to <strong>{found.data.firm}</strong> as {found.data.role}.
              </>
            )}
          </p>
          <p className="text-faded">
            As {found.data.role}: {ROLES[found.data.role]}.
          </p>
          {signedIn && !fresh && !back ? (
            <p className="mt-6 flex flex-wrap gap-3">
              <Button strong onClick={() => go.mutate(false)}>
                join as {me.data?.username}
              </Button>
              <Button onClick={() => setFresh(true)}>{JOIN.joinUnderAnother}</Button>
            </p>
          ) : (
            <form
              className="mt-6 flex max-w-sm flex-col gap-3"
              onSubmit={(event) => {
                event.preventDefault();
                go.mutate(true);
              }}
            >
              {!back && (
                <Field
                  say={JOIN.nameSign}
                  autoComplete="username"
                  maxLength={150}
                  value={username}
                  onValue={setUsername}
                />
              )}
              <Field
                say={back ? JOIN.newPassword : JOIN.password10Characters}
                type="password"
                autoComplete="new-password"
                minLength={10}
                value={password}
                onValue={setPassword}
              />
              {wantsCode && (
                <Field
                  say={JOIN.code}
                  autoComplete="one-time-code"
                  inputMode="numeric"
                  maxLength={20}
                  value={code}
                  onValue={setCode}
                />
              )}
              <Button strong type="submit" disabled={go.isPending}>
                {back ? JOIN.setIt : "join"}
              </Button>
              {!back && <p className="text-faded">{JOIN.alreadyHaveAccount}</p>}
            </form>
          )}
          {go.error && (
            <p role="alert" className="mt-2 text-short">
              {go.error.message}
            </p>
          )}
        </>
      )}
    </main>
  );
}

interface FieldProps extends InputHTMLAttributes<HTMLInputElement> {
  say: string;
  onValue: (value: string) => void;
}

function Field({ say, onValue, ...input }: FieldProps) {
  return (
    <label>
      <span className="block text-faded">{say}</span>
      <input className={`${inputClass} mt-1`} required onChange={(event) => onValue(event.target.value)} {...input} />
    </label>
  );
}
