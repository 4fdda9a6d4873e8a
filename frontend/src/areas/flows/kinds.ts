/** The kinds of stops as the editor offers and edits them. What they do is the core's business. */
import type { Definition, Prompt, Step } from "../../api/client";

export type StepKind = Step["kind"];
export type ThingKind = "queue" | "hours" | "sound" | "mailbox" | "flow";

/** One thing to fill in at a stop, in the order in which the caller meets it. */
export type StepField =
  | { kind: "heading"; label: string }
  | { kind: "prompt"; name: string; label: string }
  | { kind: "may_say"; name: string; label: string }
  | { kind: "thing"; name: string; label: string; of: ThingKind }
  | { kind: "text"; name: string; label: string; help?: string }
  | { kind: "number"; name: string; label: string; least: number; most: number; help: string }
  | { kind: "phone"; name: string; label: string }
  | { kind: "exit"; name: string; label: string };

interface StepForm {
  word: string;
  /** The word on the small button that adds one, where it is another. */
  short?: string;
  exits: string[];
  fields: StepField[];
  make: (language: Definition["language"]) => object;
}

export function spoken(text: string, language: Definition["language"] = "en"): Prompt {
  return { kind: "text", text, language };
}

const exit = (name: string, label: string): StepField => ({ kind: "exit", name, label });

/** In the order in which they are offered. */
export const stepForms: Record<StepKind, StepForm> = {
  say: {
    word: "Say", exits: ["next"], make: (language) => ({ prompt: spoken("", language), next: null }),
    fields: [{ kind: "prompt", name: "prompt", label: "The caller hears" }, exit("next", "Then leads to")],
  },
  menu: {
    word: "Menu", exits: ["no_key"], fields: [],
    make: (language) => ({ name: "", prompt: spoken("", language), arms: [], wait_s: 8, tries: 3, no_key_prompt: null, wrong_key_prompt: null, no_key: null }),
  },
  hours: {
    word: "Check hours", short: "Open?", exits: ["open", "closed"], make: () => ({ hours: null, open: null, closed: null }),
    fields: [{ kind: "thing", name: "hours", label: "Asks the hours", of: "hours" }, exit("open", "While open leads to"), exit("closed", "While closed leads to")],
  },
  queue: {
    word: "Queue", exits: ["waited"], make: () => ({ queue: null, waited: null }),
    fields: [{ kind: "thing", name: "queue", label: "Waits in the queue", of: "queue" }, exit("waited", "After the longest wait leads to")],
  },
  ring: {
    word: "Ring", exits: ["no_answer", "busy", "failed"], make: () => ({ number: "", ring_s: 20, no_answer: null, busy: null, failed: null }),
    fields: [
      { kind: "phone", name: "number", label: "Outside number" },
      { kind: "number", name: "ring_s", label: "Rings for", least: 5, most: 120, help: "seconds, 5 to 120" },
      exit("no_answer", "If nobody answers leads to"), exit("busy", "If it is busy leads to"), exit("failed", "If it cannot be reached leads to"),
    ],
  },
  message: {
    word: "Leave a message", short: "Message", exits: ["failed"], make: () => ({ mailbox: null, thanks: null, failed: null }),
    fields: [
      { kind: "thing", name: "mailbox", label: "In the mailbox", of: "mailbox" },
      { kind: "may_say", name: "thanks", label: "After the message" },
      exit("failed", "If the mailbox is not there leads to"),
    ],
  },
  go: {
    word: "Go on in", exits: ["failed"], make: () => ({ flow: null, failed: null }),
    fields: [{ kind: "thing", name: "flow", label: "Goes on in the flow", of: "flow" }, exit("failed", "If that is not in force leads to")],
  },
  end: {
    word: "End", exits: [], make: () => ({ label: "", prompt: null }),
    fields: [{ kind: "text", name: "label", label: "Name of this ending" }, { kind: "may_say", name: "prompt", label: "Last words" }],
  },
};

export const stepKinds = Object.keys(stepForms) as StepKind[];
export const kindWord = (kind: StepKind) => stepForms[kind].word;
