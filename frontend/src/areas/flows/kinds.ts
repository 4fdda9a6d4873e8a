/** The kinds of stops as the editor offers and edits them. What they do is the core's business. */
import type { Definition, Prompt, Step } from "../../api/client";

export type StepKind = Step["kind"];
export type ThingKind = "queue" | "hours" | "sound" | "mailbox" | "flow" | "block" | "plan" | "table" | "agent" | "group";

interface ChoiceField { kind: "choice"; name: string; label: string; options: { value: string; label: string }[] }

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
  | { kind: "number"; name: string; label: string; least: number; most: number; unit: string; help?: string; optional?: string }
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

interface StepForm {
  word: string;
  /** Under which heading it is offered. */
  group: "Speak" | "Decide" | "Reach somebody" | "Leave";
  about: string;
  exits: string[];
  fields: StepField[];
  make: (language: Definition["language"]) => object;
}

export function spoken(text: string, language: Definition["language"] = "en"): Prompt {
  return { kind: "text", text, language };
}

/** A way out; `empty` says what counts where it leads nowhere of its own. */
const exit = (name: string, label: string, empty?: string): StepField => ({ kind: "exit", name, label, empty });
const prompt = (name = "prompt", label = "The caller hears"): StepField => ({ kind: "prompt", name, label });
const part = (label: string): StepField => ({ kind: "part", label });
const heard = part("What is heard");
const answered = part("What is answered");
const fails: StepField = { kind: "part", label: "What if it fails", folds: true };
const row = (...words: (string | SmallField)[]): StepField => ({ kind: "row", words });
const wait: SmallField = { kind: "number", name: "wait_s", label: "Waits for a key", least: 1, most: 60, unit: "s" };
const asks: SmallField = { kind: "often", name: "tries", label: "Asks", most: 9 };
const tries = row("Asks", asks, "and waits", wait, "each time for {a key}");
const ringing = row("Rings for", { kind: "number", name: "ring_s", label: "Rings for", least: 5, most: 120, unit: "s" });

const inQueue: StepField = { kind: "thing", name: "queue", label: "Of the queue", of: "queue", empty: "in which the caller waits" };

/** The live figures that a stop can ask for. */
export const figureNames = [
  { value: "signed_in", label: "agents signed in" }, { value: "available", label: "agents available" }, { value: "waiting", label: "callers waiting" },
  { value: "longest_wait", label: "longest wait, in seconds" },
  { value: "position", label: "the caller’s place in line" }, { value: "expected_wait", label: "expected wait, in seconds" }, { value: "service_level", label: "service level today, in percent" },
];

/** In the order in which they are offered. */
export const stepForms: Record<StepKind, StepForm> = {
  say: {
    word: "Say", group: "Speak", about: "the caller hears a text or a sound", exits: ["next"],
    make: (language) => ({ prompt: spoken("", language), next: null }),
    fields: [prompt(), exit("next", "Then leads to")],
  },
  menu: {
    word: "Menu", group: "Speak", about: "keys lead to different stops", exits: ["no_key"], fields: [],
    make: (language) => ({ name: "", prompt: spoken("", language), arms: [], wait_s: 8, tries: 3, no_key_prompt: null, wrong_key_prompt: null, no_key: null, wrong_tries: null, wrong_key: null, listens: false }),
  },
  digits: {
    word: "Ask for digits", group: "Speak", about: "digits on the keys, into a value", exits: ["next", "no_digits"],
    make: (language) => ({ prompt: spoken("", language), into: "digits", least: 1, most: 8, end_key: "#", confirm: null, wait_s: 8, tries: 3, next: null, no_digits: null, listens: false }),
    fields: [
      heard, prompt(),
      answered,
      row({ kind: "number", name: "least", label: "At least", least: 1, most: 20 }, "to", { kind: "number", name: "most", label: "At most", least: 1, most: 20 }, "digits, ended by",
        { kind: "choice", name: "end_key", label: "Ends with", options: [{ value: "#", label: "#" }, { value: "*", label: "*" }, { value: "", label: "silence" }] }),
      { kind: "value", name: "into", label: "Save as", sets: true },
      { kind: "may_say", name: "confirm", label: "Read back; 1 confirms" },
      { kind: "tick", name: "listens", label: "listens for words too", voice: true },
      exit("next", "Then leads to"),
      fails, tries, exit("no_digits", "Without digits leads to"),
    ],
  },
  music: {
    word: "Hold music", group: "Speak", about: "music for a time", exits: ["next"], make: () => ({ seconds: 20, sound: null, next: null }),
    fields: [row("Plays for", { kind: "number", name: "seconds", label: "Plays for", least: 1, most: 600, unit: "s" }), { kind: "thing", name: "sound", label: "Plays", of: "sound", empty: "the hold music of the flow, the queue or the centre" }, exit("next", "Then leads to")],
  },
  hours: {
    word: "Check hours", group: "Decide", about: "open or closed now", exits: ["open", "closed"], make: () => ({ hours: null, open: null, closed: null }),
    fields: [{ kind: "thing", name: "hours", label: "Asks the hours", of: "hours" }, exit("open", "While open leads to"), exit("closed", "While closed leads to")],
  },
  times: {
    word: "Fork by day and time", group: "Decide", about: "weekdays, clock and dates", exits: ["otherwise"],
    make: () => ({ name: "", time_zone: "Europe/London", arms: [], otherwise: null }),
    fields: [{ kind: "text", name: "name", label: "Name" }, { kind: "times" }, exit("otherwise", "At any other time leads to"), { kind: "text", name: "time_zone", label: "Time zone" }],
  },
  fork: {
    word: "Fork by value", group: "Decide", about: "what is known of the caller", exits: ["otherwise"], make: () => ({ name: "", arms: [], otherwise: null }),
    fields: [{ kind: "text", name: "name", label: "Name" }, { kind: "conditions" }, exit("otherwise", "Otherwise leads to")],
  },
  lookup: {
    word: "Look up", group: "Decide", about: "a row of a lookup table", exits: ["found", "not_found", "failed"],
    make: () => ({ table: null, key: "digits", take: [], found: null, not_found: null, failed: null }),
    fields: [
      part("What is asked"), { kind: "thing", name: "table", label: "In the table", of: "table" },
      { kind: "value", name: "key", label: "The row whose key is the value" },
      answered, { kind: "cells", label: "Takes from the row" },
      exit("found", "If it is found leads to"),
      fails, exit("not_found", "If it is not leads to"), exit("failed", "If the table cannot be asked leads to"),
    ],
  },
  check_queue: {
    word: "Check a queue", group: "Decide", about: "agents, callers or waits right now", exits: ["yes", "no"],
    make: () => ({ queue: null, whole_centre: false, figure: "signed_in", how: "at_least", limit: 1, yes: null, no: null }),
    fields: [
      part("What is asked"), { kind: "tick", name: "whole_centre", label: "the whole centre, not one queue" },
      { kind: "thing", name: "queue", label: "Of the queue", of: "queue", when: (step) => step.kind === "check_queue" && !step.whole_centre },
      row({ kind: "choice", name: "figure", label: "The figure", options: figureNames },
        { kind: "choice", name: "how", label: "Is", options: [{ value: "at_least", label: "is at least" }, { value: "less_than", label: "is less than" }] },
        { kind: "number", name: "limit", label: "This much", least: 0, most: 100000 }),
      answered, exit("yes", "If so leads to"), exit("no", "If not leads to"),
    ],
  },
  repeat: {
    word: "Repeat", group: "Decide", about: "go round a number of times", exits: ["again", "done"], make: () => ({ times: 3, again: null, done: null }),
    fields: [row("Goes round", { kind: "often", name: "times", label: "Goes round", most: 20 }), exit("again", "Each time leads to"), exit("done", "After that leads to")],
  },
  fax: {
    word: "Fax check", group: "Decide", about: "a machine or a person", exits: ["no_fax", "fax"], make: () => ({ seconds: 4, fax: null, no_fax: null }),
    fields: [row("Listens for", { kind: "number", name: "seconds", label: "Listens for", least: 1, most: 15, unit: "s" }, "for a fax tone"), exit("no_fax", "Without a fax tone leads to"), exit("fax", "With one leads to")],
  },
  set: {
    word: "Set a value", group: "Decide", about: "note something for later", exits: ["next"], make: () => ({ value: "note", to: "", copy_of: null, next: null }),
    fields: [
      { kind: "value", name: "value", label: "The value", sets: true },
      { kind: "value", name: "copy_of", label: "Becomes what this value holds", optional: true, help: "Empty: what is typed below." },
      { kind: "typed", name: "to", label: "Becomes", when: (step) => step.kind === "set" && !step.copy_of },
      exit("next", "Then leads to"),
    ],
  },
  label: {
    word: "Label the contact", group: "Decide", about: "what agents read, and priority", exits: ["next"], make: () => ({ label: "", priority: null, skills: [], language: null, next: null }),
    fields: [
      { kind: "text", name: "label", label: "Agents read before the number", help: "May hold values, such as {party}." },
      { kind: "number", name: "priority", label: "Priority in queues", least: 1, most: 99, unit: "of 99", help: "Higher is served first.", optional: "as the queue has it" },
      { kind: "skills", name: "skills" },
      { kind: "choice", name: "language", label: "Agents must speak", options: [{ value: "", label: "any language" }, { value: "en", label: "English" }, { value: "cy", label: "Welsh" }] },
      exit("next", "Then leads to"),
    ],
  },
  queue: {
    word: "Queue", group: "Reach somebody", about: "waits for a person", exits: ["waited"], make: () => ({ queue: null, plan: null, longest_wait_s: null, music: null, waited: null, nobody: null, closed: null }),
    fields: [part("Who is asked"), { kind: "thing", name: "queue", label: "Waits in the queue", of: "queue" },
      heard, { kind: "thing", name: "plan", label: "By the waiting plan", of: "plan", empty: "the queue’s own" }, { kind: "thing", name: "music", label: "With the hold music", of: "sound", empty: "as the waiting plan, the queue or the centre has it" },
      { ...fails, label: "What if nobody answers" }, { kind: "number", name: "longest_wait_s", label: "Longest wait", least: 10, most: 86400, unit: "s", optional: "as the queue has it" },
      exit("waited", "After the longest wait leads to"), exit("nobody", "If nobody is signed in leads to", "As the queue says, or after the longest wait"), exit("closed", "If it is closed leads to", "As the queue says, or after the longest wait")],
  },
  tell: {
    word: "Tell the wait", group: "Reach somebody", about: "place in line and expected wait", exits: ["next"], make: () => ({ queue: null, position: true, wait: true, next: null }),
    fields: [
      { kind: "tick", name: "position", label: "the place in line" }, { kind: "tick", name: "wait", label: "the expected wait, where past errors allow it" },
      inQueue, exit("next", "Then leads to"),
    ],
  },
  callback: {
    word: "Offer a callback", group: "Reach somebody", about: "the place in line is kept", exits: ["declined", "failed"],
    make: (language) => ({ queue: null, prompt: spoken("", language), thanks: null, other_number: true, wait_s: 6, attempts: 3, retry_s: 300, declined: null, failed: null }),
    fields: [
      heard, prompt("prompt", "The caller hears; 1 takes the offer"), row("Waits", wait, "for {a key}"),
      answered, { kind: "tick", name: "other_number", label: "another number may be typed" },
      { kind: "may_say", name: "thanks", label: "After it is booked" },
      row("Rings them", { kind: "often", name: "attempts", label: "Rings them", most: 9 }, "at the most,", { kind: "number", name: "retry_s", label: "Again after", least: 30, most: 7200, unit: "s" }, "apart"),
      inQueue,
      fails, exit("declined", "If declined, leads to"), exit("failed", "Without a number leads to"),
    ],
  },
  ring: {
    word: "Ring", group: "Reach somebody", about: "people, a group, an outside number", exits: ["no_answer", "busy", "failed"],
    make: () => ({ number: "", people: [], at_once: false, group: null, ring_s: 20, no_answer: null, busy: null, away: null, failed: null }),
    fields: [
      part("Who is rung"), { kind: "people", name: "people", label: "People, one after another" },
      { kind: "tick", name: "at_once", label: "all of them at once, the first to answer" },
      { kind: "thing", name: "group", label: "Or a ring group", of: "group", empty: "no group" },
      { kind: "phone", name: "number", label: "Or an outside number" },
      ringing,
      { ...fails, label: "What if nobody answers" }, exit("no_answer", "If nobody answers leads to"), exit("busy", "If it is busy leads to"), exit("away", "If a person is not signed in leads to", "As where it is busy"), exit("failed", "If it cannot be reached leads to"),
    ],
  },
  extension: {
    word: "Dial an extension", group: "Reach somebody", about: "the caller knows its digits", exits: ["none", "no_answer"],
    make: (language) => ({ prompt: spoken("", language), wait_s: 6, tries: 3, ring_s: 20, none: null, no_answer: null }),
    fields: [heard, prompt(), answered, ringing, fails, tries, exit("none", "If it is nobody’s leads to"), exit("no_answer", "If nobody answers leads to")],
  },
  directory: {
    word: "Name directory", group: "Reach somebody", about: "a surname on the keys", exits: ["none", "no_answer"],
    make: (language) => ({ prompt: spoken("", language), wait_s: 6, tries: 3, ring_s: 20, none: null, no_answer: null }),
    fields: [heard, prompt(), answered, ringing, fails, tries, exit("none", "If nobody is found leads to"), exit("no_answer", "If nobody answers leads to")],
  },
  message: {
    word: "Leave a message", group: "Reach somebody", about: "in a mailbox", exits: ["failed"], make: () => ({ mailbox: null, thanks: null, failed: null }),
    fields: [
      { kind: "thing", name: "mailbox", label: "In the mailbox", of: "mailbox" },
      { kind: "may_say", name: "thanks", label: "After the message" },
      exit("failed", "If the mailbox is not there leads to"),
    ],
  },
  block: {
    word: "Use a shared block", group: "Leave", about: "a flow used inside of this one", exits: ["worked", "not_worked"],
    make: () => ({ flow: null, version: null, give: [], take: [], worked: null, not_worked: null }),
    fields: [{ kind: "thing", name: "flow", label: "The block", of: "block" }, { kind: "block_values" }, exit("worked", "If it worked leads to"), exit("not_worked", "If it did not leads to")],
  },
  go: {
    word: "Go on in another flow", group: "Leave", about: "this one ends there", exits: ["failed"], make: () => ({ flow: null, failed: null }),
    fields: [{ kind: "thing", name: "flow", label: "Goes on in the flow", of: "flow" }, exit("failed", "If that is not in force leads to")],
  },
  end: {
    word: "End", group: "Leave", about: "the call ends here", exits: [], make: () => ({ label: "", worked: true, prompt: null }),
    fields: [
      { kind: "text", name: "label", label: "Name of this ending" },
      { kind: "may_say", name: "prompt", label: "Last words" },
      { kind: "tick", name: "worked", label: "used as a shared block, it has worked" },
    ],
  },
};

export const stepKinds = Object.keys(stepForms) as StepKind[];

/** Of the kinds that the core lets a flow have, those that can be chosen, in their groups' order. */
export const offered = (kinds: readonly string[] = []): StepKind[] => stepKinds.filter((kind) => kinds.includes(kind));
export const kindWord = (kind: StepKind) => stepForms[kind].word;

/** The names of the values that a stop sets. */
export function setsOf(step: Step): string[] {
  if (step.kind === "digits") return [step.into];
  if (step.kind === "lookup" || step.kind === "block") return step.take.map((row) => row.into);
  return step.kind === "set" ? [step.value] : [];
}

/** Every value that stops of a flow can use. */
export function knownValues(definition: Definition): string[] {
  const names = [...definition.inputs.map((input) => input.name), ...definition.steps.flatMap(setsOf), "caller", "dialled", "message"];
  return [...new Set(names)].filter(Boolean).sort();
}

/** A value's name as it may be: small letters, figures and _. */
export function valueName(typed: string): string {
  return typed.toLowerCase().replace(/[^a-z0-9_]/g, "_").replace(/^[^a-z]+/, "").slice(0, 30);
}

export interface SheetPart { label: string; folds: boolean; fields: StepField[] }

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
