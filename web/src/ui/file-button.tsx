import { useRef } from "react";
import { Button } from "./controls";

interface Props {
  /** What the button says. */
  children: string;
  /** What the field of the file is called. */
  name: string;
  accept: string;
  /** Take it with the camera, where there is one. */
  camera?: boolean;
  onFile: (file: File) => void | Promise<void>;
}

/** A button that takes one file; the same file can be taken again. */
export function FileButton({ children, name, accept, camera, onFile }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button type="button" className="min-h-11" onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        accept={accept}
        capture={camera ? "environment" : undefined}
        aria-label={name}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void onFile(file);
        }}
      />
    </>
  );
}
