/** Spans of a day as they are painted, nudged and typed; what is allowed is for the server to say. */
import type { Schemas } from "../../api/client";

export type Span = Schemas["Span"];
export type Week = Span[][];

export const DAY = 24 * 60;
export const STEP = 15;
export const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

const two = (n: number) => String(n).padStart(2, "0");

/** A minute of the day as 18:00; midnight at the end of a day as 24:00, later ones from 00:00 again. */
export function at(minute: number): string {
  const shown = minute > DAY ? minute - DAY : minute;
  return `${two(Math.floor(shown / 60))}:${two(shown % 60)}`;
}

export function words(spans: Span[]): string {
  return spans.length ? spans.map((span) => `${at(span.start)}–${at(span.end)}`).join(", ") : "closed all day";
}

/** The spans of a typed line such as "08:00–13:00, 22:00-01:00"; null where it cannot be read. */
export function read(text: string): Span[] | null {
  if (!text.trim()) return [];
  const spans = text.split(",").map((part) => {
    const found = /^\s*(\d{1,2}):(\d\d)\s*[-–]\s*(\d{1,2}):(\d\d)\s*$/.exec(part);
    if (!found) return null;
    const [start, end] = [Number(found[1]) * 60 + Number(found[2]), Number(found[3]) * 60 + Number(found[4])];
    return { start, end: end <= start ? end + DAY : end };
  });
  return spans.every((span) => span !== null) ? spans : null;
}

/** One more span; what it touches becomes one with it. */
export function painted(spans: Span[], added: Span): Span[] {
  const touching = spans.filter((span) => span.start <= added.end && added.start <= span.end);
  const whole = {
    start: Math.min(added.start, ...touching.map((span) => span.start)),
    end: Math.max(added.end, ...touching.map((span) => span.end)),
  };
  return [...spans.filter((span) => !touching.includes(span)), whole].sort((a, b) => a.start - b.start);
}

/** A span moved, or one of its ends, by whole steps; it keeps at least one step and at most a day. */
export function nudged(span: Span, edge: "both" | "start" | "end", steps: number): Span {
  const by = steps * STEP;
  const within = (minute: number, least: number, most: number) => Math.min(Math.max(minute, least), most);
  if (edge === "end") return { start: span.start, end: within(span.end + by, span.start + STEP, span.start + DAY) };
  const start = within(span.start + by, 0, edge === "both" ? DAY - STEP : Math.min(DAY, span.end) - STEP);
  return { start, end: edge === "both" ? start + span.end - span.start : Math.min(span.end, start + DAY) };
}
