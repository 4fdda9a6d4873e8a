/** What the people of the stand-ins are like, as it is edited here. */

import type { Schemas } from "../../api/client";

export type People = NonNullable<Schemas["StandIns"]["people"]>;
export type Length = NonNullable<People["patience"]>;

/** What of it is otherwise than before; the rest stays as it is. */
export function changedOf(before: People, after: People): People {
  return Object.fromEntries(Object.entries(after).filter(([name, value]) => before[name as keyof People] !== value));
}

export const QUARTERS = 96;
const QUARTER_MS = 900_000;
export const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;

/** Callers an hour in each hour of a day: the mean of its quarter-hours. */
export function byHours(day: number[]): number[] {
  return Array.from({ length: 24 }, (_, hour) => {
    const quarters = day.slice(hour * 4, hour * 4 + 4);
    return quarters.reduce((sum, rate) => sum + rate, 0) / 4;
  });
}

/** How many come in each quarter-hour, of moments (ms after midnight); a day has 25 hours at the most. */
export function byQuarters(moments: number[]): number[] {
  const counts = Array<number>(QUARTERS).fill(0);
  for (const moment of moments) {
    const at = Math.min(QUARTERS - 1, Math.floor(moment / QUARTER_MS));
    counts[at] = (counts[at] ?? 0) + 1;
  }
  return counts;
}

/** A day with as many callers an hour in all four quarters of one hour. */
export function withHour(day: number[], hour: number, rate: number): number[] {
  return day.map((known, quarter) => (Math.floor(quarter / 4) === hour ? rate : known));
}

/** A profile with another day. */
export function withDay(profile: number[][], weekday: number, day: number[]): number[][] {
  return profile.map((known, at) => (at === weekday ? day : known));
}

/** A profile in which every working day is as one of them is. */
export function onWorkingDays(profile: number[][], weekday: number): number[][] {
  const day = profile[weekday] ?? [];
  return profile.map((known, at) => (at < 5 ? day : known));
}
