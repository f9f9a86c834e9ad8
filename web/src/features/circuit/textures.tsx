/** Hand-drawn-like surroundings as SVG patterns: told apart by their lines alone, so they print in black and white. */

const stroke = { fill: "none", stroke: "currentColor", strokeWidth: 1 } as const;

export function Textures() {
  return (
    <defs>
      <pattern id="look-masonry" width="26" height="16" patternUnits="userSpaceOnUse">
        <path d="M0 .5h26M0 8.5h26M6.5 0v8M19.5 8v8" {...stroke} />
      </pattern>
      <pattern id="look-timber" width="40" height="14" patternUnits="userSpaceOnUse">
        <path d="M0 3c9-2 14 2 22 0s12-1 18 0M0 10c7 1 13-2 20 0s14 2 20 0" {...stroke} />
        <ellipse cx="13" cy="6.6" rx="3" ry="1.2" {...stroke} />
      </pattern>
      <pattern id="look-quilt" width="18" height="12" patternUnits="userSpaceOnUse">
        <path d="M0 4c3-5 6-5 9 0s6 5 9 0M0 10c3-5 6-5 9 0s6 5 9 0" {...stroke} />
      </pattern>
      <pattern id="look-stud" width="30" height="14" patternUnits="userSpaceOnUse">
        <path d="M1 0v14M5 0v14" {...stroke} />
        <path d="M9 4c3-3 5 3 8 0s5 3 8 0M9 11c3-3 5 3 8 0s5 3 8 0" {...stroke} />
      </pattern>
      <pattern id="look-conduit" width="34" height="44" patternUnits="userSpaceOnUse">
        <path d="M0 12.5h34M0 31.5h34M30.5 9v26" {...stroke} />
      </pattern>
      <pattern id="look-tray" width="16" height="12" patternUnits="userSpaceOnUse">
        <path d="M2 3.5h7M10 9.5h5M0 9.5h2" {...stroke} strokeWidth="2" strokeLinecap="round" />
      </pattern>
      <pattern id="look-soil" width="20" height="16" patternUnits="userSpaceOnUse">
        <path d="M3 3h1M12 5h1M7 9h1M16 12h1M2 14h1M10 14l2-1" {...stroke} strokeWidth="1.6" strokeLinecap="round" />
      </pattern>
      <pattern id="look-unknown" width="12" height="12" patternUnits="userSpaceOnUse">
        <circle cx="3" cy="3" r="0.8" fill="currentColor" />
      </pattern>
      <pattern id="shortfall" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0 0v6" stroke="var(--short)" strokeWidth="2" />
      </pattern>
    </defs>
  );
}

const KNOWN = ["masonry", "timber", "quilt", "stud", "conduit", "tray", "soil"];
export const fillOf = (look: string) => `url(#look-${KNOWN.includes(look) ? look : "unknown"})`;
