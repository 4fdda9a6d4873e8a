import type { Definition } from "../../api/client";

/** Where flows live, by what they are for. */
export const places: Record<Definition["purpose"], { base: string; title: string; noun: string; empty: string }> = {
  flow: {
    base: "/guide/flows",
    title: "Flows",
    noun: "flow",
    empty: "A flow says what callers meet. Begin with a greeting; queues and sounds can be named on the way.",
  },
  block: {
    base: "/guide/blocks",
    title: "Shared blocks",
    noun: "block",
    empty: "A shared block is a part of many flows: it takes values in, and gives values and whether it worked back.",
  },
  plan: {
    base: "/wait/plans",
    title: "Waiting plans",
    noun: "plan",
    empty:
      "A waiting plan is what callers meet in a queue until somebody answers: music, their place in line, the offer to call back.",
  },
};
