import type { ReactNode } from "react";

/** Something that opens in place. */
export function More({
  title,
  note,
  open,
  children,
}: {
  title: string;
  note?: string;
  open?: boolean;
  children: ReactNode;
}) {
  return (
    <details className="mt-3 border-hair border-t pt-2" open={open}>
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">
        {title} {note && <span className="font-normal text-faded">{note}</span>}
      </summary>
      <div className="mt-2 mb-3">{children}</div>
    </details>
  );
}
