/** What can be filled in at a stop: the fields of its sheet, and those that many kinds have. */
import type { Definition, Prompt, Schemas, Step } from "../../api/client";
import { choices } from "../shared/choices";

export type ThingKind =
  "queue" | "hours" | "sound" | "mailbox" | "flow" | "block" | "plan" | "table" | "agent" | "group";

interface ChoiceField {
  kind: "choice";
  name: string;
  label: string;
  options: { value: string; label: string }[];
}

/** What stands within a sentence: a number, how often, or one of a few words. */
export type SmallField =
  | { kind: "number"; name: string; label: string; least: number; most: number; unit?: string }
  | { kind: "often"; name: string; label: string; most: number }
  | ChoiceField;

/** One thing to fill in at a stop, in the order in which the caller meets it. */
export type StepField =
  /** Begins a part of the sheet; one that is needed seldom is folded. */
  | { kind: "part"; label: string; folds?: boolean }
  /** Small fields within a sentence; {a key} is an answer where texts are exchanged. */
  | { kind: "row"; words: (string | SmallField)[] }
  | { kind: "prompt"; name: string; label: string }
  | { kind: "may_say"; name: string; label: string }
  | { kind: "thing"; name: string; label: string; of: ThingKind; empty?: string; when?: (step: Step) => boolean }
  | { kind: "people"; name: string; label: string }
  | { kind: "text"; name: string; label: string; help?: string }
  | { kind: "value"; name: string; label: string; help?: string; sets?: boolean; optional?: boolean }
  | { kind: "typed"; name: string; label: string; when?: (step: Step) => boolean }
  | {
      kind: "number";
      name: string;
      label: string;
      least: number;
      most: number;
      unit: string;
      help?: string;
      optional?: string;
    }
  | ChoiceField
  /** `voice`: of voice flows only. */
  | { kind: "tick"; name: string; label: string; voice?: boolean }
  | { kind: "phone"; name: string; label: string; when?: (step: Step) => boolean }
  | { kind: "skills"; name: string }
  | { kind: "conditions" }
  | { kind: "times" }
  | { kind: "cells"; label: string }
  | { kind: "block_values" }
  | { kind: "exit"; name: string; label: string; empty?: string };

export function spoken(text: string, language: Definition["language"] = "en"): Prompt {
  return { kind: "text", text, language };
}

/** A way out; `empty` says what counts where it leads nowhere of its own. */
export const exit = (name: string, label: string, empty?: string): StepField => ({ kind: "exit", name, label, empty });
export const prompt = (name = "prompt", label = "The caller hears"): StepField => ({ kind: "prompt", name, label });
export const part = (label: string): StepField => ({ kind: "part", label });
export const heard = part("What is heard");
export const answered = part("What is answered");
export const fails: Extract<StepField, { kind: "part" }> = { kind: "part", label: "What if it fails", folds: true };
export const row = (...words: (string | SmallField)[]): StepField => ({ kind: "row", words });
export const number = (name: string, label: string, least: number, most: number, unit: string) =>
  ({ kind: "number", name, label, least, most, unit }) as const;
export const wait: SmallField = number("wait_s", "Waits for a key", 1, 60, "s");
export const asks: SmallField = { kind: "often", name: "tries", label: "Asks", most: 9 };
export const tries = row("Asks", asks, "and waits", wait, "each time for {a key}");
export const ringing = row("Rings for", number("ring_s", "Rings for", 5, 120, "s"));

export const inQueue: Extract<StepField, { kind: "thing" }> = {
  kind: "thing",
  name: "queue",
  label: "Of the queue",
  of: "queue",
  empty: "in which the caller waits",
};

/** The live figures that a stop can ask for. */
export const figureNames = choices<Schemas["DefinitionCheckQueue"]["figure"]>({
  signed_in: "agents signed in",
  available: "agents available",
  waiting: "callers waiting",
  longest_wait: "longest wait, in seconds",
  position: "the caller’s place in line",
  expected_wait: "expected wait, in seconds",
  service_level: "service level today, in percent",
});

export interface SheetPart {
  label: string;
  folds: boolean;
  fields: StepField[];
}

/** A stop's fields in the parts of its sheet; before the first one's name there may be some without. */
export function partsOf(fields: StepField[]): SheetPart[] {
  const parts: SheetPart[] = [];
  for (const field of fields) {
    if (field.kind === "part") parts.push({ label: field.label, folds: Boolean(field.folds), fields: [] });
    else if (parts.length === 0) parts.push({ label: "", folds: false, fields: [field] });
    else parts[parts.length - 1]?.fields.push(field);
  }
  return parts;
}

/** How often, in a word. */
export const often = (n: number) => (n === 1 ? "once" : n === 2 ? "twice" : `${n} times`);
