/** Arms that are folded away: the stops behind them stand as one ending with their number. */
import type { Inspection, Stop } from "../../../api/client";

export const FOLDED = "folded";

/** Every stop that the exits lead to, and what follows. */
function reached(stops: Map<string, Stop>, from: (string | null)[], without: string | null): Set<string> {
  const seen = new Set<string>();
  const todo = [...from];
  while (todo.length) {
    const id = todo.pop();
    const stop = id && id !== without ? stops.get(id) : undefined;
    if (!stop || seen.has(stop.id)) continue;
    seen.add(stop.id);
    todo.push(...stop.exits.map((exit) => exit.to));
  }
  return seen;
}

/** The stops that callers come to only through one stop. */
export function behind(inspection: Inspection, start: string | null, id: string): Set<string> {
  const stops = new Map(inspection.stops.map((stop) => [stop.id, stop]));
  const all = reached(
    stops,
    (stops.get(id)?.exits ?? []).map((exit) => exit.to),
    null,
  );
  const others = reached(stops, [start], id);
  const found = new Set([...all].filter((stop) => !others.has(stop)));
  found.delete(id);
  return found;
}

/** The same flow with what is behind the folded stops left out; `counts` says how many stops each hides. */
export function fold(
  inspection: Inspection,
  start: string | null,
  folded: Set<string>,
): { inspection: Inspection; counts: Map<string, number> } {
  const counts = new Map<string, number>();
  let shown = inspection;
  for (const id of folded) {
    const stop = shown.stops.find((one) => one.id === id);
    if (!stop) continue;
    const hidden = behind(shown, start, id);
    if (hidden.size === 0) continue;
    counts.set(id, hidden.size);
    const away = stop.exits.filter((exit) => exit.ends || (exit.to !== null && hidden.has(exit.to)));
    const exit = {
      name: FOLDED,
      to: null,
      failure: false,
      ends: true,
      label: "",
      share: away.reduce((sum, one) => sum + one.share, 0),
    };
    const kept = { ...stop, exits: [...stop.exits.filter((one) => !away.includes(one)), exit] };
    shown = {
      ...shown,
      stops: shown.stops.filter((one) => !hidden.has(one.id)).map((one) => (one.id === id ? kept : one)),
    };
  }
  return { inspection: shown, counts };
}
