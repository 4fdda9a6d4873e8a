import type { Schemas } from "../../api/client";

export type Rules = Schemas["HandlingRules"];
export type Setting = Rules["settings"][number];
export type Layer = "centre" | "team" | "agent";

export const layers: Layer[] = ["centre", "team", "agent"];

interface Rule {
  label: string;
  about: string;
  choices?: Record<string, string>;
  /** What is said of a number that is 0. */
  zero?: string;
}

/** What each rule is called, and its choices. */
export const rules: Record<string, Rule> = {
  ring_s: { label: "Ring time", about: "before the contact goes to the next agent" },
  answers: {
    label: "Answers",
    about: "by hand, or it is connected as soon as it rings",
    choices: { by_hand: "by hand", at_once: "at once" },
  },
  missed: {
    label: "After a missed ring",
    about: "whether the agent is set away",
    choices: { stays: "stays available", away: "is set away" },
  },
  wrap_up: {
    label: "Wrap-up code",
    about: "after each contact",
    choices: { none: "none", optional: "optional", required: "required" },
  },
  target_wrap_s: { label: "Wrap-up target", about: "shown at the desk" },
  longest_wrap_s: {
    label: "Longest wrap-up",
    about: "then available again, with “no code” if none was chosen; 0: it never ends by itself",
    zero: "without end",
  },
  keypad_s: { label: "Codes by keypad", about: "how long one can be keyed on a desk phone" },
  screen_s: { label: "Codes on the screen", about: "how long one can be chosen" },
  reminder_s: { label: "Spoken reminder", about: "after so long without a code", zero: "never" },
  texts: { label: "Texts at once", about: "threads that an agent has beside each other" },
  reply_s: { label: "Text reply deadline", about: "then the thread goes back to its queue", zero: "no deadline" },
  help_to: { label: "Help is called from", about: "by one button at the desk" },
  help_how: {
    label: "How help is called",
    about: "asked first, or the caller is sent straight there",
    choices: { consult: "asked first", straight: "straight there" },
  },
  emergency_how: {
    label: "Emergency button",
    about: "the floor is told; somebody may be rung in",
    choices: { off: "no button", alerts: "tells the floor", joins: "tells the floor, and rings in" },
  },
  emergency_to: { label: "Rung in by it", about: "they hear all, and may speak" },
  emergency_recorded: {
    label: "It is recorded",
    about: "from the press of the button on",
    choices: { yes: "yes", no: "no" },
  },
  line: {
    label: "Where agents speak",
    about: "an outside line rings the telephone that is set at the agent",
    choices: {
      browser: "in the browser",
      dialled: "outside line, dialled per contact",
      open: "outside line, kept open",
    },
  },
  sign_out: {
    label: "Ending work",
    about: "whether a reason is asked for",
    choices: { plain: "without a reason", reason: "with a reason" },
  },
  away_reasons: { label: "Away reasons allowed", about: "of the centre’s; none chosen: all of them" },
};

/** The rules in the order of a contact. */
export const groups: Record<string, string[]> = {
  Ringing: ["ring_s", "answers", "missed"],
  "Wrapping up": ["wrap_up", "target_wrap_s", "longest_wrap_s", "keypad_s", "screen_s", "reminder_s"],
  "Help and emergency": ["help_to", "help_how", "emergency_how", "emergency_to", "emergency_recorded"],
  "Where they work": ["line", "away_reasons", "sign_out"],
  "Contacts at once": ["texts", "reply_s"],
};

/** A value in words; `nameOf` knows whom a reference names. */
export function said(setting: Setting, value: unknown, nameOf: (to: string) => string): string {
  if (value === null || value === undefined) return "";
  const rule = rules[setting.name];
  if (setting.kind === "target") return value === "" ? "nobody" : nameOf(String(value));
  if (setting.kind === "reasons") return (value as string[]).length ? (value as string[]).join(", ") : "all of them";
  if (value === 0 && rule?.zero) return rule.zero;
  return rule?.choices?.[String(value)] ?? `${String(value)} ${setting.unit}`.trim();
}
