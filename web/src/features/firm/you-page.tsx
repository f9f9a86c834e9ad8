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
} from "../../api/client";
import { askAnew } from "../../parts/ask-anew";
import { useWho } from "../../parts/person";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { OnceShown } from "../../ui/once-shown";
import { clockOf, dayOf } from "../../ui/time";
import { YOU } from "./words";
import { WorksHere } from "./works-here";

/** How one signs in: password, second step, and the devices one is signed in with. */
export function YouPage() {
  const me = useWho();
  return (
    <main className="mx-auto max-w-3xl px-6 py-8 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{YOU.account}</h1>
      <p className="mt-1 text-faded">
        {me.data?.name}, signs in as {me.data?.username}; {me.data?.role} of {me.data?.firm}.
      </p>
      <Password />
      <SecondStep />
      <Devices />
      <WorksHere />
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
    <section className="mt-6" aria-label={YOU.password}>
      <h2 className="font-semibold text-xl">{YOU.password}</h2>
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
          <span className="block text-faded">{YOU.new10Characters}</span>
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
          {YOU.change}
        </Button>
      </form>
      {change.error && (
        <p role="alert" className="mt-1 text-short">
          {change.error.message}
        </p>
      )}
      {change.isSuccess && (
        <p role="status" className="mt-1">
          {YOU.changedEveryOther}
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
    <section className="mt-8" aria-label={YOU.twoStepSign}>
      <h2 className="font-semibold text-xl">{YOU.twoStepSign}</h2>
      <p className="mt-1 text-faded">{YOU.wellPasswordEnter}</p>
      {on === false && !begin.data && (
        <p className="mt-2">
          <Button onClick={() => begin.mutate()}>{YOU.turn}</Button>
        </p>
      )}
      {begin.data && (
        <form
          className="mt-3 grid grid-cols-[auto_1fr] items-start gap-5 max-sm:grid-cols-1"
          onSubmit={submitted(() => confirm.mutate())}
        >
          <img
            alt={YOU.secretAppScanned}
            className="h-44 w-44 bg-white"
            src={`data:image/svg+xml;utf8,${encodeURIComponent(withNamespace(begin.data.picture))}`}
          />
          <div className="flex flex-col gap-2">
            <p>
              {YOU.scanAuthenticatorApp}{" "}
              <code className="select-all break-all" data-secret>
                {begin.data.secret}
              </code>
            </p>
            {field}
            <p>
              <Button strong type="submit" disabled={confirm.isPending}>
                {YOU.turn2}
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
            {YOU.turnOff}
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
      {confirm.data && <OnceShown say={YOU.recoveryCodesEach} text={confirm.data.codes.join("  ")} />}
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
    <section className="mt-8" aria-label={YOU.devices}>
      <h2 className="font-semibold text-xl">{YOU.whereSigned}</h2>
      <p className="mt-1 text-faded">{YOU.deviceSignedOut}</p>
      {found.error && <p className="text-short">{found.error.message}</p>}
      <ul className="mt-2">
        {found.data?.map((d) => (
          <li
            key={d.id}
            data-device={d.agent}
            className="flex flex-wrap items-baseline gap-x-4 border-hair border-t py-2"
          >
            <span className="flex-1">
              {d.agent} {d.here && <span className="text-faded">{YOU.device}</span>}
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
                {YOU.signOut}
              </button>
            )}
          </li>
        ))}
      </ul>
      {end.error && <p className="text-short">{end.error.message}</p>}
    </section>
  );
}
