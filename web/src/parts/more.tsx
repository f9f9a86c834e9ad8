import { type ReactNode, useState } from "react";

interface Props {
  title: string;
  note?: string;
  /** Without a line above, for what stands close to what it belongs to. */
  close?: boolean;
  open?: boolean;
  /** Told when it opens or closes, for what is only asked for when somebody looks. */
  onOpen?: (open: boolean) => void;
  children: ReactNode;
}

/** Something that opens in place. What is in it is drawn once somebody has looked: a page has much that nobody opens. */
export function More({ title, note, close, open, onOpen, children }: Props) {
  const [looked, setLooked] = useState(open === true);
  return (
    <details
      className={`no-print ${close ? "" : "mt-3 border-hair border-t pt-2"}`}
      open={open}
      onToggle={(event) => {
        if (event.target !== event.currentTarget) return;
        if (event.currentTarget.open) setLooked(true);
        onOpen?.(event.currentTarget.open);
      }}
    >
      <summary className={`cursor-pointer hover:bg-lit ${close ? "text-faded" : "py-1 font-semibold"}`}>
        {title} {note && <span className="font-normal text-faded">{note}</span>}
      </summary>
      <div className="mt-2 mb-3">{(looked || open) && children}</div>
    </details>
  );
}
