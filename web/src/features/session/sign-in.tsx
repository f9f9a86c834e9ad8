import { useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { ApiError, signIn } from "../../api/client";
import { takeIn } from "../../parts/person";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { SIGN_IN } from "./words";

/** Sign in. What was typed stays when it is refused. */
export function SignIn({ then }: { then?: (person: string) => void }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState<string | null>(null);
  const [why, setWhy] = useState("");
  const [busy, setBusy] = useState(false);
  const id = useId();
  const submit = async () => {
    setBusy(true);
    setWhy("");
    try {
      const found = await signIn(name, password, code ?? "");
      takeIn(client, found);
      then?.(found.person);
    } catch (error) {
      // The second step is asked for once the password was right.
      if (error instanceof ApiError && error.refusal.errors[0]?.field === "code") setCode((before) => before ?? "");
      setWhy(error instanceof Error ? error.message : "Not accepted.");
    }
    setBusy(false);
  };
  return (
    <form
      className="mt-6 flex max-w-sm flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <label className="text-faded" htmlFor={`${id}-n`}>
        {SIGN_IN.name}
      </label>
      <input
        id={`${id}-n`}
        className={inputClass}
        autoComplete="username"
        required
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <label className="text-faded" htmlFor={`${id}-p`}>
        {SIGN_IN.password}
      </label>
      <input
        id={`${id}-p`}
        className={inputClass}
        type="password"
        autoComplete="current-password"
        required
        value={password}
        onChange={(event) => setPassword(event.target.value)}
      />
      {code !== null && (
        <>
          <label className="text-faded" htmlFor={`${id}-c`}>
            {SIGN_IN.code}
          </label>
          <input
            id={`${id}-c`}
            // biome-ignore lint/a11y/noAutofocus: the one thing still asked for
            autoFocus
            className={inputClass}
            autoComplete="one-time-code"
            required
            value={code}
            aria-describedby={`${id}-lost`}
            onChange={(event) => setCode(event.target.value)}
          />
          <p id={`${id}-lost`} className="text-faded">
            {SIGN_IN.lostPhone}
          </p>
        </>
      )}
      {why && (
        <p role="alert" className="text-short">
          {why}
        </p>
      )}
      <Button strong type="submit" disabled={busy}>
        {busy ? "signing in …" : "sign in"}
      </Button>
      {code === null && <p className="text-faded">{SIGN_IN.forgotten}</p>}
    </form>
  );
}

export function SignInPage() {
  return (
    <main className="mx-auto max-w-3xl px-6 py-16">
      <h1 className="font-semibold text-3xl">{SIGN_IN.mellowSpan}</h1>
      <p className="mt-2 max-w-prose text-faded">{SIGN_IN.designEachCircuit}</p>
      <SignIn />
      <Caution />
    </main>
  );
}

export function Caution() {
  return <p className="mt-10 max-w-prose border-hair border-t pt-3 text-faded">{SIGN_IN.designAidOnly}</p>;
}
