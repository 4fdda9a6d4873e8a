import type { Schemas } from "../../api/client";
import { clock, percent } from "../../frame/format";

export type Unit = Schemas["Measure"]["unit"];

/** A figure as people read it; a dash where it cannot be had. */
export function figure(value: number | null | undefined, unit: Unit): string {
  if (value === null || value === undefined) return "–";
  if (unit === "share") return percent(value);
  return unit === "ms" ? clock(Math.round(value / 1000) * 1000) : value.toLocaleString("en-GB");
}

/** Long times in hours, as sums are told. */
export function hours(ms: number): string {
  return ms >= 3_600_000 ? `${(ms / 3_600_000).toFixed(1)} h` : clock(ms);
}

const BYS: Record<string, Intl.DateTimeFormatOptions> = {
  "15": { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" },
  "30": { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" },
  "60": { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" },
  day: { weekday: "short", day: "numeric", month: "short" },
  week: { day: "numeric", month: "short" },
  month: { month: "long", year: "numeric" },
};

/** How a row is called; of one day only (`day`) it is its time. */
export function rowName(begin: number, end: number, by: string, zone: string, day = false): string {
  if (day && BYS[by]?.hour) return new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: zone }).format(begin);
  const name = new Intl.DateTimeFormat("en-GB", { ...BYS[by], timeZone: zone }).format(begin);
  if (by !== "week") return name;
  return `${name} – ${new Intl.DateTimeFormat("en-GB", { ...BYS.week, timeZone: zone }).format(end - 1)}`;
}

/** Whether a period is one day. */
export function isOneDay(begin: number, end: number): boolean {
  return end - begin <= 25 * 3_600_000;
}

/** Days from and to, in words. */
export function daysBetween(begin: number, end: number, zone: string): string {
  const day = (ms: number, options: Intl.DateTimeFormatOptions) => new Intl.DateTimeFormat("en-GB", { ...options, timeZone: zone }).format(ms).replace(",", "");
  const last = day(end - 1, { weekday: "short", day: "numeric", month: "short", year: "numeric" });
  const first = day(begin, { weekday: "short", day: "numeric", month: "short" });
  return last.startsWith(first) ? last : `${first} – ${last}`;
}

/** A moment of a row: its time of day where the row is a day or less, else also its day. */
export function momentWithin(ms: number, begin: number, end: number, zone: string): string {
  const long = !isOneDay(begin, end);
  return new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", ...(long && { day: "numeric", month: "short" }), timeZone: zone }).format(ms);
}
