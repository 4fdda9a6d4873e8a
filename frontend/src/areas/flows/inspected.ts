/** What the core found of a definition, told by what changed. */
import type { Inspection, Stop } from "../../api/client";

export type Told = ReadonlyMap<string, Stop>;

/** The stops of an inspection, by their ids: what need not be told again as long as it stays. */
export function toldBy(inspection: Inspection): Told {
  return new Map(inspection.stops.map((stop) => [stop.id, stop]));
}

/** Their marks, by which the server knows what has changed. */
export function marksOf(told: Told): Record<string, string> {
  return Object.fromEntries([...told.values()].map((stop) => [stop.id, stop.mark]));
}

/** The whole: what is told now, and of all other stops what was told before. */
export function together(news: Inspection, before: Told): Inspection {
  const told = toldBy(news);
  const stops = news.order.map((id) => told.get(id) ?? before.get(id));
  return { ...news, stops: stops.filter((stop) => stop !== undefined) };
}
