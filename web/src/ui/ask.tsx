import { AlertDialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./controls";

interface Props {
  open: boolean;
  title: string;
  say: string;
  /** What happens when the person agrees, in a word or two. */
  yes: string;
  no?: string;
  onYes: () => void;
  onClose: () => void;
  children?: ReactNode;
}

/** Ask before something that is not undone with a key. */
export function Ask({ open, title, say, yes, no = "cancel", onYes, onClose, children }: Props) {
  return (
    <AlertDialog.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-30 bg-veil" />
        <AlertDialog.Content className="fixed top-[12vh] left-1/2 z-40 w-[34rem] max-w-[calc(100vw-2rem)] -translate-x-1/2 rounded-sm border border-hair bg-paper p-5 text-ink shadow-float">
          <AlertDialog.Title className="font-semibold text-xl">{title}</AlertDialog.Title>
          <AlertDialog.Description className="mt-1 text-faded">{say}</AlertDialog.Description>
          {children}
          <div className="mt-4 flex gap-2">
            <AlertDialog.Cancel asChild>
              <Button>{no}</Button>
            </AlertDialog.Cancel>
            <Button strong onClick={onYes}>
              {yes}
            </Button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
