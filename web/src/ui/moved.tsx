import { type ReactNode, useEffect, useRef, useState } from "react";

/** Marks its content for two seconds when the value under it has moved. */
export function Moved({
  value,
  children,
  className = "",
}: {
  value: unknown;
  children: ReactNode;
  className?: string;
}) {
  const before = useRef(value);
  const [moves, setMoves] = useState(0);
  useEffect(() => {
    if (before.current !== value) {
      before.current = value;
      setMoves((n) => n + 1);
    }
  }, [value]);
  return (
    <span key={moves} className={`${className} ${moves > 0 ? "moved" : ""}`}>
      {children}
    </span>
  );
}
