import { Dialog } from "radix-ui";
import type { ButtonHTMLAttributes, ReactNode } from "react";

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & { strong?: boolean };

/** A plain button: text on paper with a hairline; strong for the one thing to do next. */
export function Button({ strong, className = "", ...rest }: ButtonProps) {
  const look = strong
    ? "border-copper bg-copper text-on-copper disabled:opacity-55"
    : "border-hair bg-paper hover:bg-lit disabled:text-faded disabled:hover:bg-paper";
  return <button type="button" className={`min-h-9 rounded-sm border px-3 py-1 ${look} ${className}`} {...rest} />;
}

/** A command with its key beside it. */
export function Command({ keys, children, className = "", ...rest }: ButtonProps & { keys?: string }) {
  return (
    <button
      type="button"
      className={`min-h-8 whitespace-nowrap hover:bg-lit disabled:text-faded ${className}`}
      {...rest}
    >
      {children} {keys && <kbd className="key">{keys}</kbd>}
    </button>
  );
}

interface SheetProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  say: string;
  wide?: boolean;
  children: ReactNode;
}

/** A dialog in the middle of the page. */
export function Sheet({ open, onOpenChange, title, say, wide, children }: SheetProps) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-veil" />
        <Dialog.Content
          className={`fixed top-[12vh] left-1/2 z-40 max-h-[76vh] ${wide ? "w-[46rem]" : "w-[34rem]"} max-w-[calc(100vw-2rem)] -translate-x-1/2 overflow-auto rounded-sm border border-hair bg-paper p-5 text-ink shadow-float`}
        >
          <Dialog.Title className="text-xl font-semibold">{title}</Dialog.Title>
          <Dialog.Description className="mt-1 text-faded">{say}</Dialog.Description>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
