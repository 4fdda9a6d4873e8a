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

/** A count, with its thousands apart; nothing where none is known. */
export function counted(value: number | undefined): string {
  return value === undefined ? "" : value.toLocaleString("en-GB");
}

type Moment = string | number | Date;
const DAY: Intl.DateTimeFormatOptions = { weekday: "short", day: "numeric", month: "short" };
const TIME: Intl.DateTimeFormatOptions = { hour: "2-digit", minute: "2-digit", hourCycle: "h23" };
/** Making one costs more than using it. */
const formats = new Map<string, Intl.DateTimeFormat>();

function written(moment: Moment, zone: string, options: Intl.DateTimeFormatOptions): string {
  const name = zone + JSON.stringify(options);
  const format = formats.get(name) ?? new Intl.DateTimeFormat("en-GB", { ...options, timeZone: zone });
  formats.set(name, format);
  return format.format(new Date(moment)).replace(/^(\w+),/, "$1");
}

/** A moment's day: “Tue 14 Jul”, or with its year. */
export function day(moment: Moment, zone: string, year = false): string {
  return written(moment, zone, { ...DAY, ...(year && { year: "numeric" }) });
}

/** A moment's time of day: “09:52”. */
export function time(moment: Moment, zone: string): string {
  return written(moment, zone, TIME);
}

/** A moment as day and time in the centre's zone: “Tue 14 Jul, 09:52”. */
export function moment(iso: string | number, zone: string): string {
  return `${day(iso, zone)}, ${time(iso, zone)}`;
}

/** A date (YYYY-MM-DD) as a day: “Tue 14 Jul”, or with its year. */
export function dayOf(date: string, year = false): string {
  return day(`${date}T00:00:00Z`, "UTC", year);
}

/** A month (YYYY-MM): “Jul”. */
export function monthOf(month: string): string {
  return written(`${month}-15T00:00:00Z`, "UTC", { month: "short" });
}

/** The begin of a stretch of some kind: “Tue 14 Jul, 09:30”, “Tue 14 Jul”, “13 Jul – 19 Jul”, “July 2026”. */
export function stretch(begin: number, end: number, by: string, zone: string): string {
  if (by === "month") return written(begin, zone, { month: "long", year: "numeric" });
  if (by === "day") return day(begin, zone);
  if (by !== "week") return moment(begin, zone);
  const date = (ms: number) => written(ms, zone, { day: "numeric", month: "short" });
  return `${date(begin)} – ${date(end - 1)}`;
}

/** Days from and to: “Tue 14 Jul – Thu 16 Jul 2026”. */
export function daysBetween(begin: number, end: number, zone: string): string {
  const first = day(begin, zone),
    last = day(end - 1, zone, true);
  return last.startsWith(first) ? last : `${first} – ${last}`;
}

/** A moment as hours, minutes and seconds in the centre's zone. */
export function timeOfDay(ms: number, zone: string): string {
  return written(ms, zone, { ...TIME, second: "2-digit" });
}

/** The weekday of a moment in a zone, short. */
export function weekday(ms: number, zone: string): string {
  return written(ms, zone, { weekday: "short" });
}

/** The date of a moment in a zone, as YYYY-MM-DD. */
export function dateIn(iso: string, zone: string): string {
  return new Intl.DateTimeFormat("en-CA", { timeZone: zone, year: "numeric", month: "2-digit", day: "2-digit" }).format(
    new Date(iso),
  );
}

/** A moment as the wall clock of a zone, YYYY-MM-DDTHH:MM, for a field. */
export function wallClock(iso: string, zone: string): string {
  return `${dateIn(iso, zone)}T${time(iso, zone)}`;
}

/** How far a zone is ahead of UTC at a moment, in milliseconds. */
function zoneOffset(moment: Date, zone: string): number {
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
    hourCycle: "h23",
  }).formatToParts(moment);
  const part = (type: string) => Number(parts.find((p) => p.type === type)?.value);
  return (
    Date.UTC(part("year"), part("month") - 1, part("day"), part("hour"), part("minute"), part("second")) -
    moment.getTime()
  );
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
  return `${written(ms, zone, { weekday: "long" })}s`;
}
