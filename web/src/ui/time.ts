// As the rest of the page is written: British, whatever the browser speaks.
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", year: "numeric" });

/** The time of day of a moment, e.g. 14:02. */
export const clockOf = (moment: string) => clock.format(new Date(moment));

/** The day of a moment; today and yesterday by their name. */
export function dayOf(moment: string, now = new Date()): string {
  const then = new Date(moment);
  const days = Math.round((start(now) - start(then)) / 86_400_000);
  return days === 0 ? "today" : days === 1 ? "yesterday" : day.format(then);
}
const start = (date: Date) => new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();
