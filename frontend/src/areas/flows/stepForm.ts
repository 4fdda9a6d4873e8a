import type { Definition, Step } from "../../api/client";
import type { StepField } from "./stepFields";

export type StepKind = Step["kind"];

/** What a kind of stop is to the editor: how it is offered, what leads on, what is filled in. */
export interface StepForm {
  word: string;
  /** Under which heading it is offered. */
  group: "Speak" | "Decide" | "Reach somebody" | "Leave";
  about: string;
  exits: string[];
  fields: StepField[];
  make: (language: Definition["language"]) => object;
}

export type StepForms = Partial<Record<StepKind, StepForm>>;
