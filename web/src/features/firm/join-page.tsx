import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { join, openInvitation, who } from "../../api/client";
import { takeIn } from "../../parts/person";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { ROLES } from "./roles";
import { JOIN } from "./words";

/** What an invitation's link opens: join the firm, as somebody new or as the person signed in. */
export function JoinPage() {
  const { token = "" } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const me = useQuery({ queryKey: ["who"], queryFn: who });
  const found = useQuery({ queryKey: ["invitation", token], queryFn: () => openInvitation(token), retry: false });
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [fresh, setFresh] = useState(false);
  const go = useMutation({
    mutationFn: (isNew: boolean) => join(token, isNew ? username : "", isNew ? password : ""),
    onSuccess: (mine) => {
      takeIn(client, mine);
      navigate("/");
    },
  });
  if (me.isPending || found.isPending) return <p className="p-8 text-faded">{JOIN.oneMoment}</p>;
  const signedIn = me.data?.signed_in;
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
            {found.data.name}, you are invited to <strong>{found.data.firm}</strong> as {found.data.role}.
          </p>
          <p className="text-faded">
            As {found.data.role}: {ROLES[found.data.role]}.
          </p>
          {signedIn && !fresh ? (
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
              <label>
                <span className="block text-faded">{JOIN.nameSign}</span>
                <input
                  className={`${inputClass} mt-1`}
                  autoComplete="username"
                  required
                  maxLength={150}
                  value={username}
                  onChange={(event) => setUsername(event.target.value)}
                />
              </label>
              <label>
                <span className="block text-faded">{JOIN.password10Characters}</span>
                <input
                  className={`${inputClass} mt-1`}
                  type="password"
                  autoComplete="new-password"
                  required
                  minLength={10}
                  value={password}
                  onChange={(event) => setPassword(event.target.value)}
                />
              </label>
              <Button strong type="submit" disabled={go.isPending}>
                join
              </Button>
              {!signedIn && (
                <p className="text-faded">
                  {JOIN.alreadyHaveAccount}{" "}
                  <a className="word" href="/">
                    {JOIN.sign}
                  </a>{" "}
                  first, then open this link again.
                </p>
              )}
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
