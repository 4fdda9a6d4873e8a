/** Changes of a definition: each takes one and gives a new one. Nothing here judges calls. */
import type { Definition, Prompt, Step } from "../../api/client";

export type StepKind = Step["kind"];
export type Menu = Extract<Step, { kind: "menu" }>;

const KEY_ORDER = "1234567890*#";

export const kindWords: Record<StepKind, string> = { say: "Say", menu: "Menu", hours: "Check hours", queue: "Queue", end: "End" };
/** In the order in which they are offered. */
export const stepKinds: StepKind[] = ["say", "menu", "hours", "queue", "end"];

export function spoken(text: string, language: Definition["language"] = "en"): Prompt {
  return { kind: "text", text, language };
}

/** An id that is not taken, from what it is. */
export function freeId(definition: Definition, stem: string): string {
  const taken = new Set(definition.steps.map((step) => step.id));
  let number = 1;
  while (taken.has(`${stem}-${number}`)) number += 1;
  return `${stem}-${number}`;
}

/** A new step of a kind. */
export function newStep(definition: Definition, kind: StepKind, queue: string | null = null): Step {
  const id = freeId(definition, kind);
  const { language } = definition;
  switch (kind) {
    case "say":
      return { kind, id, prompt: spoken("", language), next: null };
    case "menu":
      return { kind, id, name: "", prompt: spoken("", language), arms: [], wait_s: 8, tries: 3, no_key_prompt: null, wrong_key_prompt: null, no_key: null };
    case "hours":
      return { kind, id, hours: null, open: null, closed: null };
    case "queue":
      return { kind, id, queue, waited: null };
    case "end":
      return { kind, id, label: "", prompt: null };
  }
}

export function stepOf(definition: Definition, id: string | null): Step | undefined {
  return definition.steps.find((step) => step.id === id);
}

/** Replace a step. */
export function setStep(definition: Definition, step: Step): Definition {
  return { ...definition, steps: definition.steps.map((old) => (old.id === step.id ? step : old)) };
}

/** The names of a step's exits, in the author's order. */
export function exitsOf(step: Step): string[] {
  switch (step.kind) {
    case "say":
      return ["next"];
    case "menu":
      return [...step.arms.map((arm) => `key:${arm.key}`), "no_key"];
    case "hours":
      return ["open", "closed"];
    case "queue":
      return ["waited"];
    case "end":
      return [];
  }
}

export function targetOf(step: Step, exit: string): string | null {
  if (step.kind === "say" && exit === "next") return step.next;
  if (step.kind === "queue" && exit === "waited") return step.waited;
  if (step.kind === "hours") return exit === "open" ? step.open : step.closed;
  if (step.kind !== "menu") return null;
  return exit === "no_key" ? step.no_key : (step.arms.find((arm) => `key:${arm.key}` === exit)?.next ?? null);
}

function withTarget(step: Step, exit: string, to: string | null): Step {
  if (step.kind === "say" && exit === "next") return { ...step, next: to };
  if (step.kind === "queue" && exit === "waited") return { ...step, waited: to };
  if (step.kind === "hours") return exit === "open" ? { ...step, open: to } : { ...step, closed: to };
  if (step.kind !== "menu") return step;
  if (exit === "no_key") return { ...step, no_key: to };
  return { ...step, arms: step.arms.map((arm) => (`key:${arm.key}` === exit ? { ...arm, next: to } : arm)) };
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
export function addAfter(definition: Definition, id: string | null, kind: StepKind): { definition: Definition; made: string } {
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
  return setStep(definition, { ...menu, arms: [...menu.arms, { key, label: "", next: null }] });
}

/** The first stop that leads to another; null where none does. */
export function leadingTo(definition: Definition, id: string): string | null {
  const found = definition.steps.find((step) => step.id !== id && exitsOf(step).some((exit) => targetOf(step, exit) === id));
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
    .map((step) => exitsOf(step).reduce((s, exit) => (targetOf(s, exit) === id ? withTarget(s, exit, healed) : s), step));
  return { ...definition, steps, start: definition.start === id ? healed : definition.start };
}
