import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { endLink, links, makeLink } from "../../api/client";
import { askAnew } from "../../parts/ask-anew";
import { Button, Sheet } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { OnceShown } from "../../ui/once-shown";
import { dayOf } from "../../ui/time";
import { CLIENT_LINKS } from "./words";

interface Props {
  job: { id: string; name: string } | null;
  onClose: () => void;
}

/** The links by which clients read a job as it stands when the link is made. */
export function ClientLinks({ job, onClose }: Props) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [days, setDays] = useState(30);
  const id = job?.id ?? "";
  const found = useQuery({ queryKey: ["links", id], queryFn: () => links(id), enabled: job !== null });
  const again = () => void askAnew(client, ["links", id]);
  const make = useMutation({
    mutationFn: () => makeLink(id, name, days),
    onSuccess: () => {
      setName("");
      again();
    },
  });
  const end = useMutation({ mutationFn: (link: string) => endLink(id, link), onSettled: again });
  const close = () => {
    make.reset();
    onClose();
  };
  return (
    <Sheet
      open={job !== null}
      onOpenChange={(open) => !open && close()}
      title={`Links for clients: ${job?.name ?? ""}`}
      say={CLIENT_LINKS.anyoneLinkCan}
    >
      <ul className="mt-3" aria-label={CLIENT_LINKS.links}>
        {found.data?.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-hair border-t py-2">
            <span className="flex-1">
              {one.name}: version {one.version}, made {dayOf(one.made)}, expires {dayOf(one.ends)}
            </span>
            <button
              type="button"
              className="word text-faded"
              aria-label={`cancel link: the link of ${one.name}`}
              onClick={() => end.mutate(one.id)}
            >
              {CLIENT_LINKS.cancelLink}
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-3 flex flex-wrap items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <label className="min-w-44 flex-1">
          <span className="block text-faded">{CLIENT_LINKS.who}</span>
          <input
            className={`${inputClass} mt-1`}
            required
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-faded">{CLIENT_LINKS.howLongLasts}</span>
          <select
            className={`${inputClass} mt-1 w-auto`}
            value={days}
            onChange={(event) => setDays(Number(event.target.value))}
          >
            <option value={7}>{CLIENT_LINKS.week}</option>
            <option value={30}>30 days</option>
            <option value={90}>90 days</option>
            <option value={365}>{CLIENT_LINKS.year}</option>
          </select>
        </label>
        <Button strong type="submit" disabled={make.isPending}>
          {CLIENT_LINKS.makeLink}
        </Button>
      </form>
      {[make.error, end.error, found.error].map(
        (error) =>
          error && (
            <p key={error.message} role="alert" className="mt-1 text-short">
              {error.message}
            </p>
          ),
      )}
      {make.data && (
        <OnceShown
          say={`The link for ${make.data.name}. It is shown only now: send it to them yourself.`}
          text={`${globalThis.location.origin}/shared/${make.data.token}`}
        />
      )}
      <p className="mt-4">
        <Button onClick={close}>done</Button>
      </p>
    </Sheet>
  );
}
