import { type ReactNode, useEffect, useRef } from "react";

interface Props {
  /** What the section is, for those who hear the page. */
  as: string;
  /** Whether an address leads here: it is then scrolled to. */
  sought: boolean;
  className?: string;
  children: ReactNode;
}

/** A section of a long view that an address can lead to. */
export function Sought({ as, sought, className, children }: Props) {
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    if (sought) box.current?.scrollIntoView?.();
  }, [sought]);
  return (
    <section ref={box} aria-label={as} className={className}>
      {children}
    </section>
  );
}
