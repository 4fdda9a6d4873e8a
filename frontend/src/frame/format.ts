/** Times and numbers as people read them. */

/** Milliseconds as m:ss or h:mm:ss. */
export function clock(ms: number): string {
  const total = Math.max(0, Math.floor(ms / 1000));
  const hours = Math.floor(total / 3600);
  const minutes = Math.floor((total % 3600) / 60);
  const seconds = String(total % 60).padStart(2, "0");
  return hours ? `${hours}:${String(minutes).padStart(2, "0")}:${seconds}` : `${minutes}:${seconds}`;
}

/** A share (0..1) as a percentage; a dash where there is no figure. */
export function percent(share: number | null | undefined, digits = 1): string {
  return share === null || share === undefined ? "–" : `${(share * 100).toFixed(digits)} %`;
}

/** A moment as day and time in the centre's zone. */
export function moment(iso: string | number, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone: zone,
  }).format(new Date(iso));
}

/** A date (YYYY-MM-DD) as a day: “Tue 14 Jul”, or with its year. */
export function dayOf(date: string, year = false): string {
  return new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", ...(year && { year: "numeric" }), timeZone: "UTC" }).format(new Date(`${date}T00:00:00Z`)).replace(",", "");
}

/** A moment as hours, minutes and seconds in the centre's zone. */
export function timeOfDay(ms: number, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    hour: "2-digit", minute: "2-digit", second: "2-digit", timeZone: zone,
  }).format(new Date(ms));
}

/** The weekday of a moment in a zone, short. */
export function weekday(ms: number, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", { weekday: "short", timeZone: zone }).format(new Date(ms));
}

/** The date of a moment in a zone, as YYYY-MM-DD. */
export function dateIn(iso: string, zone: string): string {
  return new Intl.DateTimeFormat("en-CA", { timeZone: zone, year: "numeric", month: "2-digit", day: "2-digit" }).format(new Date(iso));
}

/** A moment as the wall clock of a zone, YYYY-MM-DDTHH:MM, for a field. */
export function wallClock(iso: string, zone: string): string {
  const time = new Intl.DateTimeFormat("en-GB", { timeZone: zone, hour: "2-digit", minute: "2-digit", hourCycle: "h23" }).format(new Date(iso));
  return `${dateIn(iso, zone)}T${time}`;
}

/** How far a zone is ahead of UTC at a moment, in milliseconds. */
function zoneOffset(moment: Date, zone: string): number {
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone, year: "numeric", month: "2-digit", day: "2-digit", hour: "2-digit", minute: "2-digit", second: "2-digit", hourCycle: "h23",
  }).formatToParts(moment);
  const part = (type: string) => Number(parts.find((p) => p.type === type)?.value);
  return Date.UTC(part("year"), part("month") - 1, part("day"), part("hour"), part("minute"), part("second")) - moment.getTime();
}

/** A wall clock time (YYYY-MM-DDTHH:MM) of a zone as an ISO moment. */
export function zonedIso(local: string, zone: string): string {
  const guess = new Date(`${local}:00Z`);
  const first = new Date(guess.getTime() - zoneOffset(guess, zone));
  return new Date(guess.getTime() - zoneOffset(first, zone)).toISOString();
}

const names = new Intl.Collator();

/** The order of names in lists. */
export const byName = (a: string, b: string): number => names.compare(a, b);

/** The weekday of a moment in a zone, as what recurs: Tuesdays. */
export function weekdayOf(ms: number, zone: string): string {
  return `${new Intl.DateTimeFormat("en-GB", { weekday: "long", timeZone: zone }).format(new Date(ms))}s`;
}
