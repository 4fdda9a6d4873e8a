/** Two authors' drafts of one flow, brought together stop by stop. */
import type { Definition, Step } from "../../api/client";

/** A part that both changed, and differently. */
export interface Clash {
  /** A stop's id, or the name of a setting. */
  part: string;
  of: "stop" | "setting";
}

export interface Merged {
  definition: Definition;
  clashes: Clash[];
  /** How many stops and settings came from the other author. */
  taken: number;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/** What counts of one part: the side that changed it; null where both did, and differently. */
function side(base: unknown, mine: unknown, theirs: unknown): "mine" | "theirs" | null {
  if (same(mine, theirs) || same(theirs, base)) return "mine";
  return same(mine, base) ? "theirs" : null;
}

/** Everything that only one of the two touched is taken from that one; of the rest `choice` says whose counts. */
export function merge(base: Definition, mine: Definition, theirs: Definition, choice: Record<string, "mine" | "theirs"> = {}): Merged {
  const clashes: Clash[] = [];
  let taken = 0;
  const pick = <T>(part: string, of: Clash["of"], before: T, ours: T, others: T): T => {
    const from = side(before, ours, others);
    if (from === null) clashes.push({ part, of });
    const chosen = from ?? choice[part] ?? "mine";
    if (chosen === "theirs") taken += 1;
    return chosen === "theirs" ? others : ours;
  };
  const byId = (definition: Definition) => new Map(definition.steps.map((step) => [step.id, step]));
  const [old, ours, others] = [byId(base), byId(mine), byId(theirs)];
  // Their order, with what only we have behind the stop that it stood behind.
  const order = theirs.steps.map((step) => step.id);
  mine.steps.forEach((step, i) => {
    if (order.includes(step.id)) return;
    const before = mine.steps[i - 1]?.id;
    order.splice(before && order.includes(before) ? order.indexOf(before) + 1 : order.length, 0, step.id);
  });
  const steps = order.map((id) => pick(id, "stop", old.get(id), ours.get(id), others.get(id))).filter((step): step is Step => step !== undefined);
  const settings = Object.keys(theirs).filter((name) => name !== "steps") as (keyof Definition)[];
  const kept = Object.fromEntries(settings.map((name) => [name, pick<unknown>(name, "setting", base[name], mine[name], theirs[name])]));
  return { definition: { ...theirs, ...kept, steps } as Definition, clashes, taken };
}
