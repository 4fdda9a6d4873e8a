import type { Schemas } from "../../api/client";

type Formula = Schemas["LiveFloorQueue"]["formula"];

/** What a queue's service level is a share of, by its formula: as the reports name it. */
export const formulaNames: Record<Formula, string> = {
  A: "of answered and abandoned",
  B: "of answered",
  C: "of offered",
  D: "of offered but short",
};

const sums: Record<Formula, string> = {
  A: "(answered + abandoned − both late) ÷ (answered + abandoned)",
  B: "answered in time ÷ answered",
  C: "answered in time ÷ offered",
  D: "answered in time ÷ (offered − short abandons)",
};

/** The formulas to choose from, each with its sum, and its name by itself once it is chosen. */
export const formulas = (Object.keys(sums) as Formula[]).map((value) => ({
  value,
  label: `${formulaNames[value]}: ${sums[value]}`,
  name: formulaNames[value],
}));
