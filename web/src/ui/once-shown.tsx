import { useState } from "react";
import { Button } from "./controls";

/** Something that is shown one time: to be copied now. */
export function OnceShown({ say, text }: { say: string; text: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <div role="status" className="mt-3 border-copper border-l-4 bg-leaf px-3 py-2">
      <p>{say}</p>
      <p className="mt-1 flex flex-wrap items-center gap-3">
        <code className="select-all break-all" data-once>
          {text}
        </code>
        <Button onClick={() => void navigator.clipboard?.writeText(text).then(() => setCopied(true))}>
          {copied ? "copied" : "copy"}
        </Button>
      </p>
    </div>
  );
}
