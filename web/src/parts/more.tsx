import type { ReactNode } from "react";

interface Props {
  title: string;
  note?: string;
  open?: boolean;
  /** Told when it opens or closes, for what is only asked for when somebody looks. */
  onOpen?: (open: boolean) => void;
  children: ReactNode;
}

/** Something that opens in place. */
export function More({ title, note, open, onOpen, children }: Props) {
  return (
    <details
      className="mt-3 border-hair border-t pt-2"
      open={open}
      onToggle={(event) => event.target === event.currentTarget && onOpen?.(event.currentTarget.open)}
    >
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">
        {title} {note && <span className="font-normal text-faded">{note}</span>}
      </summary>
      <div className="mt-2 mb-3">{children}</div>
    </details>
  );
}
