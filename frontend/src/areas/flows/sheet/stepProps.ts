import type { Definition, Stop } from "../../../api/client";
import type { StepKind } from "../kinds";
import type { Held } from "./RefPicker";
import type { Choice } from "./TargetPicker";

/** What the sheet of a stop is given. */
export interface StepProps<S> {
  step: S;
  stops: Stop[];
  /** What a new stop may be. */
  kinds: StepKind[];
  language: Definition["language"];
  channel: Definition["channel"];
  inputs: Definition["inputs"];
  /** The inputs, and what looked-up rows give. */
  held: Held[];
  /** The names of all values of the flow. */
  known: string[];
  disabled: boolean;
  change(step: S, tag?: string): void;
  lead: (exit: string, choice: Choice) => void;
  /** Keep an arm with all that follows it, for pasting. */
  copyArm: (exit: string) => void;
}
