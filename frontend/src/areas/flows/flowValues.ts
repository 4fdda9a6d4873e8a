/** The values that a flow carries, by name. */
import type { Definition, Step } from "../../api/client";

/** The names of the values that a stop sets. */
export function setsOf(step: Step): string[] {
  if (step.kind === "digits") return [step.into];
  if (step.kind === "lookup" || step.kind === "block") return step.take.map((row) => row.into);
  return step.kind === "set" ? [step.value] : [];
}

/** Every value that stops of a flow can use. */
export function knownValues(definition: Definition): string[] {
  const names = [
    ...definition.inputs.map((input) => input.name),
    ...definition.steps.flatMap(setsOf),
    "caller",
    "dialled",
    "message",
  ];
  return [...new Set(names)].filter(Boolean).sort();
}

/** A value's name as it may be: small letters, figures and _. */
export function valueName(typed: string): string {
  return typed
    .toLowerCase()
    .replace(/[^a-z0-9_]/g, "_")
    .replace(/^[^a-z]+/, "")
    .slice(0, 30);
}
