export interface Line {
  text: string;
  /** Height of the line it names. */
  from: number;
  tone: string;
}

/** Push labels apart so that none covers another, each as near its line as there is room for. */
export function spread(lines: Line[], top: number, bottom: number, step: number): (Line & { y: number })[] {
  const placed = [...lines].sort((a, b) => a.from - b.from).map((l) => ({ ...l, y: l.from }));
  for (let i = 0; i < placed.length; i++) {
    const here = placed[i];
    const above = placed[i - 1];
    if (here) here.y = Math.max(here.y, above ? above.y + step : top + 4);
  }
  for (let i = placed.length - 1; i >= 0; i--) {
    const here = placed[i];
    const below = placed[i + 1];
    if (here) here.y = Math.min(here.y, below ? below.y - step : bottom + 8);
  }
  return placed;
}
