/** Two authors' drafts of one flow, brought together part by part. */
import type { Definition, Step } from "../../api/client";
import { fieldOf } from "./edits";

/** A part that both changed, and differently; `step` is empty for a setting of the flow. */
export interface Clash {
  step: string;
  /** A field, or a field and the key of one of its rows; empty for the stop as a whole. */
  part: string;
}

export type Whose = "mine" | "theirs";
export type Choices = Record<string, Whose>;

/** What a choice is kept under. */
export const keyOf = (clash: Clash) => `${clash.step} ${clash.part}`;

export interface Merged {
  definition: Definition;
  clashes: Clash[];
}

type Plain = Record<string, unknown>;
type Row = Plain & { key?: unknown; id?: unknown };

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/** What counts of one part: the side that changed it; null where both did, and differently. */
function side(base: unknown, mine: unknown, theirs: unknown): Whose | null {
  if (same(mine, theirs) || same(theirs, base)) return "mine";
  return same(mine, base) ? "theirs" : null;
}

/** The key of a row, where rows have one: an arm's key, or its id. */
function rowKey(row: unknown): string | null {
  if (typeof row !== "object" || row === null) return null;
  const { key, id } = row as Row;
  const found = key ?? id;
  return typeof found === "string" ? found : null;
}

/** The rows of a list by their keys; null for anything else, and for a list without rows. */
function rowsOf(value: unknown): Map<string, unknown> | null {
  if (!Array.isArray(value) || value.length === 0) return null;
  const keys = value.map(rowKey);
  return keys.every((key) => key !== null)
    ? new Map(keys.map((key, i) => [String(key), (value as unknown[])[i]]))
    : null;
}

/** Their order, with what only we have behind whatever it stood behind. */
function orderOf(mine: string[], theirs: string[]): string[] {
  const order = [...theirs];
  mine.forEach((id, i) => {
    if (order.includes(id)) return;
    const before = mine[i - 1];
    order.splice(before !== undefined && order.includes(before) ? order.indexOf(before) + 1 : order.length, 0, id);
  });
  return order;
}

class Merging {
  clashes: Clash[] = [];

  constructor(private readonly choices: Choices) {}

  pick(step: string, part: string, base: unknown, mine: unknown, theirs: unknown): unknown {
    const from = side(base, mine, theirs);
    if (from === null) this.clashes.push({ step, part });
    const whose = from ?? this.choices[keyOf({ step, part })] ?? "mine";
    return whose === "theirs" ? theirs : mine;
  }

  /** A field; where it is a list of rows with keys, row by row. */
  field(step: string, name: string, base: unknown, mine: unknown, theirs: unknown): unknown {
    const [old, ours, others] = [rowsOf(base), rowsOf(mine), rowsOf(theirs)];
    const lists = [base, mine, theirs].every((value) => Array.isArray(value));
    if (!lists || (!ours && !others)) return this.pick(step, name, base, mine, theirs);
    const keys = orderOf([...(ours?.keys() ?? [])], [...(others?.keys() ?? [])]);
    return keys
      .map((key) => this.pick(step, `${name} ${key}`, old?.get(key), ours?.get(key), others?.get(key)))
      .filter((row) => row !== undefined);
  }

  stop(id: string, base: Step | undefined, mine: Step | undefined, theirs: Step | undefined): Step | undefined {
    const whole = side(base, mine, theirs);
    const alike = base && mine && theirs && base.kind === mine.kind && mine.kind === theirs.kind;
    if (whole !== null || !alike) return this.pick(id, "", base, mine, theirs) as Step | undefined;
    const field = (name: string) =>
      this.field(id, name, fieldOf(base, name), fieldOf(mine, name), fieldOf(theirs, name));
    return Object.fromEntries(Object.keys(theirs).map((name) => [name, field(name)])) as unknown as Step;
  }
}

/** Everything that only one of the two touched is taken from that one; of the rest `choices` says whose counts. */
export function merge(base: Definition, mine: Definition, theirs: Definition, choices: Choices = {}): Merged {
  const merging = new Merging(choices);
  const byId = (definition: Definition) => new Map(definition.steps.map((step) => [step.id, step]));
  const [old, ours, others] = [byId(base), byId(mine), byId(theirs)];
  const steps = orderOf([...ours.keys()], [...others.keys()])
    .map((id) => merging.stop(id, old.get(id), ours.get(id), others.get(id)))
    .filter((step): step is Step => step !== undefined);
  const settings = Object.keys(theirs).filter((name) => name !== "steps") as (keyof Definition)[];
  const kept = Object.fromEntries(
    settings.map((name) => [name, merging.pick("", name, base[name], mine[name], theirs[name])]),
  );
  return { definition: { ...theirs, ...kept, steps } as Definition, clashes: merging.clashes };
}
