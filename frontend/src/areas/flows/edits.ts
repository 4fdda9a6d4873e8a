/** Changes of a definition: each takes one and gives a new one. Nothing here judges calls. */
import { applyPatch } from "rfc6902";
import type { Definition, Schemas, Step } from "../../api/client";
import { stepForms, type StepKind } from "./kinds";

export type Menu = Extract<Step, { kind: "menu" }>;

const KEY_ORDER = "1234567890*#";

/** An id that is not taken, from what it is. */
export function freeId(definition: Definition, stem: string): string {
  const taken = new Set(definition.steps.map((step) => step.id));
  let number = 1;
  while (taken.has(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}

/** A new step of a kind; `filled` sets some of it from the start. */
export function newStep(definition: Definition, kind: StepKind, filled: object = {}): Step {
  return {
    kind,
    id: freeId(definition, kind.replace("_", "-")),
    ...stepForms[kind].make(definition.language),
    ...filled,
  } as Step;
}

export function stepOf(definition: Definition, id: string | null): Step | undefined {
  return definition.steps.find((step) => step.id === id);
}

/** Replace a step. */
export function setStep(definition: Definition, step: Step): Definition {
  return { ...definition, steps: definition.steps.map((old) => (old.id === step.id ? step : old)) };
}

/** An arm of a menu or a fork, whatever its other parts are. */
interface Arm {
  name: string;
  next: string | null;
}

/** The arms of a stop, by the names of their exits: `key:1`, `arm:a1`. */
function armsOf(step: Step): Arm[] {
  if (step.kind === "menu") return step.arms.map((arm) => ({ name: `key:${arm.key}`, next: arm.next }));
  if (step.kind === "fork" || step.kind === "times")
    return step.arms.map((arm) => ({ name: `arm:${arm.id}`, next: arm.next }));
  return [];
}

/** The names of a step's exits, in the author's order. */
export function exitsOf(step: Step): string[] {
  return [...armsOf(step).map((arm) => arm.name), ...stepForms[step.kind].exits];
}

/** What a step holds in a field of its own kind; nothing where it has none of that name. */
export function fieldOf(step: object, name: string): unknown {
  return Reflect.get(step, name) as unknown;
}

export function targetOf(step: Step, exit: string): string | null {
  if (exit.includes(":")) return armsOf(step).find((arm) => arm.name === exit)?.next ?? null;
  return (fieldOf(step, exit) as string | null | undefined) ?? null;
}

function withTarget(step: Step, exit: string, to: string | null): Step {
  const arm = armsOf(step).findIndex((found) => found.name === exit);
  if (arm >= 0 && "arms" in step)
    return { ...step, arms: step.arms.map((old, i) => (i === arm ? { ...old, next: to } : old)) } as Step;
  return exit in step ? { ...step, [exit]: to } : step;
}

/** Lead an exit somewhere. */
export function setTarget(definition: Definition, id: string, exit: string, to: string | null): Definition {
  const step = stepOf(definition, id);
  return step ? setStep(definition, withTarget(step, exit, to)) : definition;
}

/** Lead an exit to a new step. */
export function addAt(definition: Definition, id: string, exit: string, made: Step): Definition {
  const grown = { ...definition, steps: [...definition.steps, made] };
  return setTarget(grown, id, exit, made.id);
}

/** Put a new step after another: what followed by its first exit follows the new one. */
export function addAfter(
  definition: Definition,
  id: string | null,
  kind: StepKind,
): { definition: Definition; made: string } {
  const made = newStep(definition, kind);
  const step = stepOf(definition, id);
  const exit = step ? exitsOf(step)[0] : undefined;
  if (!step || !exit) {
    const grown = { ...definition, steps: [...definition.steps, made] };
    return { definition: definition.start === null ? { ...grown, start: made.id } : grown, made: made.id };
  }
  const first = exitsOf(made)[0];
  const onward = first ? withTarget(made, first, targetOf(step, exit)) : made;
  return { definition: addAt(definition, step.id, exit, onward), made: made.id };
}

/** The next key that a menu does not use yet. */
export function freeKey(menu: Menu): string | null {
  const used = new Set(menu.arms.map((arm) => arm.key));
  return [...KEY_ORDER].find((key) => !used.has(key)) ?? null;
}

/** Give a menu one more key. */
export function addArm(definition: Definition, menu: Menu): Definition {
  const key = freeKey(menu);
  if (key === null) return definition;
  return setStep(definition, {
    ...menu,
    arms: [...menu.arms, { key, label: "", words: [], hidden: false, next: null }],
  });
}

/** The first stop that leads to another; null where none does. */
export function leadingTo(definition: Definition, id: string): string | null {
  const found = definition.steps.find(
    (step) => step.id !== id && exitsOf(step).some((exit) => targetOf(step, exit) === id),
  );
  return found?.id ?? null;
}

/** Remove a step; whatever led to it leads to what followed it by its first exit. */
export function removeStep(definition: Definition, id: string): Definition {
  const gone = stepOf(definition, id);
  if (!gone) return definition;
  const first = exitsOf(gone)[0];
  const after = first ? targetOf(gone, first) : null;
  const healed = after === id ? null : after;
  const steps = definition.steps
    .filter((step) => step.id !== id)
    .map((step) =>
      exitsOf(step).reduce((s, exit) => (targetOf(s, exit) === id ? withTarget(s, exit, healed) : s), step),
    );
  const accepted = definition.accepted.filter((row) => row.step !== id);
  return { ...definition, steps, accepted, start: definition.start === id ? healed : definition.start };
}

/** Let a warning be with a reason; an empty reason takes that back. */
export function accepting(
  definition: Definition,
  finding: { code: string; step: string; exit: string },
  reason: string,
): Definition {
  const { code, step, exit } = finding;
  const others = definition.accepted.filter((row) => row.code !== code || row.step !== step || row.exit !== exit);
  return { ...definition, accepted: reason ? [...others, { code, step, exit, reason }] : others };
}

/** Stops with all that follows them, and the inputs that they use: what is copied between flows. */
export interface Copy {
  steps: Step[];
  inputs: Definition["inputs"];
  /** The arm that leads to the first of them, where an arm was copied, and the kind of stop that it is of. */
  arm?: { of: StepKind; row: object };
}

type Armed = Extract<Step, { arms: unknown[] }>;

function armed(step: Step | undefined): step is Armed {
  return step !== undefined && "arms" in step;
}

/** The flow's inputs that some of its stops use. */
function inputsOf(definition: Definition, steps: Step[]): Definition["inputs"] {
  const text = JSON.stringify(steps);
  return definition.inputs.filter(
    (input) =>
      text.includes(`value:${input.name}"`) ||
      new RegExp(`\\{${input.name}[:}]`).test(text) ||
      text.includes(`"${input.name}"`),
  );
}

/** A stop with everything that it leads to. */
export function copied(definition: Definition, id: string): Copy {
  const found: Step[] = [];
  const todo = [id];
  while (todo.length) {
    const step = stepOf(definition, todo.pop() ?? null);
    if (!step || found.includes(step)) continue;
    found.push(step);
    todo.push(
      ...exitsOf(step)
        .map((exit) => targetOf(step, exit))
        .filter((to) => to !== null)
        .reverse(),
    );
  }
  return { steps: found, inputs: inputsOf(definition, found) };
}

/** An arm's name that is not taken. */
export function freeArm(arms: { id: string }[]): string {
  let number = arms.length + 1;
  while (arms.some((arm) => arm.id === `a${number}`)) number += 1;
  return `a${number}`;
}

/** An arm of a stop, with everything that it leads to. */
export function copiedArm(definition: Definition, step: Step, exit: string): Copy {
  const at = armsOf(step).findIndex((arm) => arm.name === exit);
  const row = armed(step) ? (step.arms[at] as object | undefined) : undefined;
  const next = targetOf(step, exit);
  const following = next ? copied(definition, next) : { steps: [], inputs: [] };
  return {
    ...following,
    inputs: inputsOf(definition, [...following.steps, ...(row ? [row as Step] : [])]),
    ...(row && { arm: { of: step.kind, row } }),
  };
}

/** The arms of a stop with one more, under a key or an id that is free; null where there is no room. */
function withArm(step: Armed, row: object, next: string | null): Step | null {
  if (step.kind === "menu") {
    const wanted = (row as Menu["arms"][number]).key;
    const key = step.arms.some((arm) => arm.key === wanted) ? freeKey(step) : wanted;
    return key === null ? null : { ...step, arms: [...step.arms, { ...(row as Menu["arms"][number]), key, next }] };
  }
  return { ...step, arms: [...step.arms, { ...row, id: freeArm(step.arms), next }] } as Step;
}

/** Just these stops, with the inputs that they use. */
export function copiedOnly(definition: Definition, ids: string[]): Copy {
  const steps = ids.map((id) => stepOf(definition, id)).filter((step): step is Step => step !== undefined);
  return { steps, inputs: inputsOf(definition, steps) };
}

/** Put a copy after a stop under names of its own; inputs that are missing come along. */
export function pasted(
  definition: Definition,
  after: string | null,
  copy: Copy,
): { definition: Definition; made: string | null } {
  let grown = definition;
  const names = new Map<string, string>();
  for (const step of copy.steps) {
    const id = stepOf(grown, step.id) ? freeId(grown, step.id.replace(/-\d+$/, "").slice(0, 34)) : step.id;
    names.set(step.id, id);
    grown = { ...grown, steps: [...grown.steps, { ...step, id }] };
  }
  for (const id of names.values()) {
    const step = stepOf(grown, id);
    if (step)
      grown = setStep(
        grown,
        exitsOf(step).reduce((s, exit) => withTarget(s, exit, names.get(targetOf(s, exit) ?? "") ?? null), step),
      );
  }
  const known = new Set(grown.inputs.map((input) => input.name));
  grown = { ...grown, inputs: [...grown.inputs, ...copy.inputs.filter((input) => !known.has(input.name))] };
  const made = names.get(copy.steps[0]?.id ?? "") ?? null;
  const step = stepOf(grown, after);
  if (copy.arm && armed(step) && step.kind === copy.arm.of) {
    const more = withArm(step, copy.arm.row, made);
    if (more) return { definition: setStep(grown, more), made: step.id };
  }
  const exit = step ? exitsOf(step).find((name) => targetOf(step, name) === null) : undefined;
  if (after && exit && made) grown = setTarget(grown, after, exit, made);
  else if (grown.start === null) grown = { ...grown, start: made };
  return { definition: grown, made };
}

/** The definition with what mends a finding; null where it has changed since and the fix does not fit any more. */
export function mended(definition: Definition, fix: Schemas["Fix"]): Definition | null {
  const copy = structuredClone(definition);
  const refused = applyPatch(
    copy,
    fix.patch.map(({ op, path, value }) => ({ op, path, value })),
  );
  return refused.some((error) => error !== null) ? null : copy;
}
