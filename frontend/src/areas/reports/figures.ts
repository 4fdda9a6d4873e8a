import type { Schemas } from "../../api/client";
import { clock, counted, moment, percent, stretch, time } from "../../frame/format";

export type Unit = Schemas["Measure"]["unit"];

/** A figure as people read it; a dash where it cannot be had. */
export function figure(value: number | null | undefined, unit: Unit): string {
  if (value === null || value === undefined) return "–";
  if (unit === "share") return percent(value);
  return unit === "ms" ? clock(Math.round(value / 1000) * 1000) : counted(value);
}

/** Long times in hours, as sums are told. */
export function hours(ms: number): string {
  return ms >= 3_600_000 ? `${(ms / 3_600_000).toFixed(1)} h` : clock(ms);
}

/** How a row is called; of one day only its time. */
export function rowName(begin: number, end: number, by: string, zone: string, oneDay = false): string {
  return oneDay && Number(by) ? time(begin, zone) : stretch(begin, end, by, zone);
}

/** Whether a period is one day. */
export function isOneDay(begin: number, end: number): boolean {
  return end - begin <= 25 * 3_600_000;
}

/** A moment of a row: its time of day where the row is a day or less, else also its day. */
export function momentWithin(ms: number, begin: number, end: number, zone: string): string {
  return isOneDay(begin, end) ? time(ms, zone) : moment(ms, zone);
}
