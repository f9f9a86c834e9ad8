import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import {
  beginSecondStep,
  changePassword,
  confirmSecondStep,
  devices,
  endDevice,
  endSecondStep,
  secondStep,
  who,
} from "../../api/client";
import { askAnew } from "../../parts/ask-anew";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { OnceShown } from "../../ui/once-shown";
import { clockOf, dayOf } from "../../ui/time";

/** How one signs in: password, second step, and the devices one is signed in with. */
export function YouPage() {
  const me = useQuery({ queryKey: ["who"], queryFn: who });
  return (
    <main className="mx-auto max-w-3xl px-6 py-8 max-sm:px-3">
      <h1 className="font-semibold text-2xl">Your account</h1>
      <p className="mt-1 text-faded">
        {me.data?.name}, signs in as {me.data?.username}; {me.data?.role} of {me.data?.firm}.
      </p>
      <Password />
      <SecondStep />
      <Devices />
    </main>
  );
}

const submitted = (then: () => void) => (event: FormEvent) => {
  event.preventDefault();
  then();
};

function Password() {
  const client = useQueryClient();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useMutation({
    mutationFn: () => changePassword(old, fresh),
    onSuccess: (found) => {
      client.setQueryData(["who"], found);
      void askAnew(client, ["devices"]);
      setOld("");
      setFresh("");
    },
  });
  return (
    <section className="mt-6" aria-label="Password">
      <h2 className="font-semibold text-xl">Password</h2>
      <form className="mt-2 flex flex-wrap items-end gap-2" onSubmit={submitted(() => change.mutate())}>
        <label>
          <span className="block text-faded">now</span>
          <input
            type="password"
            autoComplete="current-password"
            className={`${inputClass} mt-1`}
            required
            value={old}
            onChange={(event) => setOld(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-faded">new, 10 characters or more</span>
          <input
            type="password"
            autoComplete="new-password"
            className={`${inputClass} mt-1`}
            required
            minLength={10}
            value={fresh}
            onChange={(event) => setFresh(event.target.value)}
          />
        </label>
        <Button type="submit" disabled={change.isPending}>
          change it
        </Button>
      </form>
      {change.error && (
        <p role="alert" className="mt-1 text-short">
          {change.error.message}
        </p>
      )}
      {change.isSuccess && (
        <p role="status" className="mt-1">
          Changed. Every other device is signed out.
        </p>
      )}
    </section>
  );
}

function SecondStep() {
  const client = useQueryClient();
  const found = useQuery({ queryKey: ["second"], queryFn: secondStep });
  const [code, setCode] = useState("");
  const again = () => {
    setCode("");
    void askAnew(client, ["second"]);
  };
  const begin = useMutation({ mutationFn: beginSecondStep });
  const confirm = useMutation({
    mutationFn: () => confirmSecondStep(code),
    onSuccess: () => {
      begin.reset();
      again();
    },
  });
  const end = useMutation({
    mutationFn: () => endSecondStep(code),
    onSuccess: () => {
      confirm.reset();
      again();
    },
  });
  const on = found.data?.on;
  const field = (
    <label>
      <span className="block text-faded">{on ? "a code, or a recovery code" : "the six digits it shows now"}</span>
      <input
        className={`${inputClass} mt-1`}
        autoComplete="one-time-code"
        required
        value={code}
        onChange={(event) => setCode(event.target.value)}
      />
    </label>
  );
  return (
    <section className="mt-8" aria-label="Two-step sign-in">
      <h2 className="font-semibold text-xl">Two-step sign-in</h2>
      <p className="mt-1 text-faded">
        As well as the password you enter a code from an app on your phone, new every half minute. A stolen password
        alone is then useless.
      </p>
      {on === false && !begin.data && (
        <p className="mt-2">
          <Button onClick={() => begin.mutate()}>turn it on …</Button>
        </p>
      )}
      {begin.data && (
        <form
          className="mt-3 grid grid-cols-[auto_1fr] items-start gap-5 max-sm:grid-cols-1"
          onSubmit={submitted(() => confirm.mutate())}
        >
          <img
            alt="The secret for the app, to be scanned"
            className="h-44 w-44 bg-white"
            src={`data:image/svg+xml;utf8,${encodeURIComponent(withNamespace(begin.data.picture))}`}
          />
          <div className="flex flex-col gap-2">
            <p>
              Scan it with an authenticator app, or type in this key:{" "}
              <code className="select-all break-all" data-secret>
                {begin.data.secret}
              </code>
            </p>
            {field}
            <p>
              <Button strong type="submit" disabled={confirm.isPending}>
                turn it on
              </Button>
            </p>
          </div>
        </form>
      )}
      {on && (
        <form className="mt-2 flex flex-wrap items-end gap-2" onSubmit={submitted(() => end.mutate())}>
          <p className="basis-full">
            On; {found.data?.codes_left} recovery {found.data?.codes_left === 1 ? "code is" : "codes are"} left.
          </p>
          {field}
          <Button type="submit" disabled={end.isPending}>
            turn it off
          </Button>
        </form>
      )}
      {[begin.error, confirm.error, end.error].map(
        (error) =>
          error && (
            <p key={error.message} role="alert" className="mt-1 text-short">
              {error.message}
            </p>
          ),
      )}
      {confirm.data && (
        <OnceShown
          say="Recovery codes, each usable once, for when the phone is lost. They are shown only now: write them down."
          text={confirm.data.codes.join("  ")}
        />
      )}
    </section>
  );
}

/** A picture that stands by itself names what it is written in. */
const withNamespace = (svg: string) =>
  svg.includes("xmlns=") ? svg : svg.replace("<svg", '<svg xmlns="http://www.w3.org/2000/svg"');

function Devices() {
  const client = useQueryClient();
  const found = useQuery({ queryKey: ["devices"], queryFn: devices });
  const end = useMutation({
    mutationFn: endDevice,
    onSuccess: (left) => client.setQueryData(["devices"], left),
  });
  return (
    <section className="mt-8" aria-label="Devices">
      <h2 className="font-semibold text-xl">Where you are signed in</h2>
      <p className="mt-1 text-faded">
        A device is signed out after a week unused, and after 30 days at most. Unsent work stays in its browser.
      </p>
      {found.error && <p className="text-short">{found.error.message}</p>}
      <ul className="mt-2">
        {found.data?.map((d) => (
          <li
            key={d.id}
            data-device={d.agent}
            className="flex flex-wrap items-baseline gap-x-4 border-hair border-t py-2"
          >
            <span className="flex-1">
              {d.agent} {d.here && <span className="text-faded">this device</span>}
            </span>
            <span className="text-faded">
              last used {dayOf(d.seen)}, {clockOf(d.seen)}
            </span>
            {!d.here && (
              <button
                type="button"
                className="word"
                aria-label={`sign it out: ${d.agent}`}
                onClick={() => end.mutate(d.id)}
              >
                sign it out
              </button>
            )}
          </li>
        ))}
      </ul>
      {end.error && <p className="text-short">{end.error.message}</p>}
    </section>
  );
}
