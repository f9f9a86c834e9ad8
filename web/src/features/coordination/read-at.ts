import type { Plot } from "../../api/types";
import { quantity } from "../../ui/quantity";
import { MAY_NOT, NOT_CERTAIN, operatesFirst } from "./words";

export const current = (amps: number) => quantity(Number(amps.toPrecision(3)), "A");
export const seconds = (s: number) =>
  s >= 3600 ? `${Number((s / 3600).toPrecision(2))} h` : `${Number(s.toPrecision(2))} s`;

/** What a plot says at a place of the current: which device operates first, and between which times each does. */
export function readAt(plot: Plot, x: number): string[] {
  const { scale } = plot;
  const time = (y: number) => scale.t_lo * (scale.t_hi / scale.t_lo) ** y;
  const read = plot.devices.map(({ name, slow, fast }) => ({
    name,
    drawn: slow.length > 0,
    slow: heightAt(slow, x),
    fast: heightAt(fast, x),
  }));
  const acting = read.filter((d) => d.slow !== null);
  const told = read.flatMap(({ name, drawn, slow, fast }) => {
    if (slow === null) return drawn ? [`${name} ${MAY_NOT}`] : [];
    const most = slow <= 0 ? "instantly" : `${seconds(time(slow))}`;
    return [`${name} ${fast === null || fast <= 0 ? `within ${most}` : `${seconds(time(fast))} to ${most}`}`];
  });
  return acting.length > 1 ? [firstOf(acting), ...told] : told;
}

/** The one whose slow edge lies below the fast edge of each other: where bands overlap, or an edge is not known, none is certain. */
function firstOf(acting: readonly { name: string; slow: number | null; fast: number | null }[]): string {
  const first = acting.find((d) =>
    acting.every((other) => other === d || (other.fast !== null && (d.slow ?? Number.POSITIVE_INFINITY) < other.fast)),
  );
  return first ? operatesFirst(first.name) : NOT_CERTAIN;
}

function heightAt(points: readonly (readonly number[])[], x: number): number | null {
  const first = points[0];
  if (!first || x < (first[0] ?? 0)) return null;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1] as number[], points[i] as number[]];
    const [ax, ay, bx, by] = [a[0] ?? 0, a[1] ?? 0, b[0] ?? 0, b[1] ?? 0];
    if (x >= ax && x <= bx && bx > ax) return ay + ((by - ay) * (x - ax)) / (bx - ax);
  }
  return points.at(-1)?.[1] ?? null;
}
