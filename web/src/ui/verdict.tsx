import type { Verdict } from "../api/types";

export const WORDS: Record<Verdict, string> = {
  meets: "meets",
  close: "marginal",
  short: "fails",
  not_known: "not known",
};
export const TONE: Record<Verdict, string> = {
  meets: "text-meets",
  close: "text-close",
  short: "text-short",
  not_known: "text-faded",
};

/** The mark of a verdict, told apart by shape alone: full disc, half disc, crossed ring, dotted ring. */
export function Mark({ verdict, size = 14 }: { verdict: Verdict; size?: number }) {
  return (
    <svg
      viewBox="0 0 16 16"
      width={size}
      height={size}
      role="img"
      aria-label={WORDS[verdict]}
      className={`inline-block shrink-0 align-[-0.1em] ${TONE[verdict]}`}
    >
      {verdict === "meets" && <circle cx="8" cy="8" r="6" fill="currentColor" />}
      {verdict === "close" && (
        <>
          <circle cx="8" cy="8" r="6" fill="none" stroke="currentColor" strokeWidth="1.6" />
          <path d="M8 2a6 6 0 0 0 0 12z" fill="currentColor" />
        </>
      )}
      {verdict === "short" && (
        <>
          <circle cx="8" cy="8" r="6" fill="none" stroke="currentColor" strokeWidth="2" />
          <path d="M3.8 12.2 12.2 3.8" stroke="currentColor" strokeWidth="2" />
        </>
      )}
      {verdict === "not_known" && (
        <circle cx="8" cy="8" r="6" fill="none" stroke="currentColor" strokeWidth="1.8" strokeDasharray="1.6 2.2" />
      )}
    </svg>
  );
}
