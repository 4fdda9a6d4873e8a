/** Where the flow is left. */
import { exit } from "../stepFields";
import type { StepForms } from "../stepForm";

export const leave = {
  block: {
    word: "Use a shared block",
    group: "Leave",
    about: "a flow used inside of this one",
    exits: ["worked", "not_worked"],
    make: () => ({ flow: null, version: null, give: [], take: [], worked: null, not_worked: null }),
    fields: [
      { kind: "thing", name: "flow", label: "The block", of: "block" },
      { kind: "block_values" },
      exit("worked", "If it worked leads to"),
      exit("not_worked", "If it did not leads to"),
    ],
  },
  go: {
    word: "Go on in another flow",
    group: "Leave",
    about: "this one ends there",
    exits: ["failed"],
    make: () => ({ flow: null, failed: null }),
    fields: [
      { kind: "thing", name: "flow", label: "Goes on in the flow", of: "flow" },
      exit("failed", "If that is not in force leads to"),
    ],
  },
  end: {
    word: "End",
    group: "Leave",
    about: "the call ends here",
    exits: [],
    make: () => ({ label: "", worked: true, prompt: null }),
    fields: [
      { kind: "text", name: "label", label: "Name of this ending" },
      { kind: "may_say", name: "prompt", label: "Last words" },
      { kind: "tick", name: "worked", label: "used as a shared block, it has worked" },
    ],
  },
} satisfies StepForms;
