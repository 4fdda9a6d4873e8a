/** The kinds of stops as the editor offers and edits them. What they do is the core's business. */
import { decide } from "./forms/decide";
import { leave } from "./forms/leave";
import { reach } from "./forms/reach";
import { speak } from "./forms/speak";
import type { StepForm, StepKind } from "./stepForm";

export type { StepKind };

/** In the order in which they are offered. */
export const stepForms: Record<StepKind, StepForm> = { ...speak, ...decide, ...reach, ...leave };

export const stepKinds = Object.keys(stepForms) as StepKind[];

/** Of the kinds that the core lets a flow have, those that can be chosen, in their groups' order. */
export const offered = (kinds: readonly string[] = []): StepKind[] => stepKinds.filter((kind) => kinds.includes(kind));
export const kindWord = (kind: StepKind) => stepForms[kind].word;
