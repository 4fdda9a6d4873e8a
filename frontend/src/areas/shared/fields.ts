import type { ComponentType } from "react";
import type { ConfigItem, Resource, Values } from "../../api/resources";

/** What a field with a drawing of its own is given. */
export interface OwnProps {
  value: unknown;
  error?: string;
  disabled: boolean;
  values: Values;
  change: (value: unknown) => void;
}

interface Base {
  name: string;
  label: string;
  help?: string;
  required?: boolean;
  /** Shown only where this holds of the whole form. */
  when?: (values: Values) => boolean;
}

/** A field of a form: what it is called, and how it is filled in. */
export type Field =
  | (Base & { kind: "text" | "area" | "password" | "colour" | "moment" | "yes" })
  | (Base & { kind: "number"; unit: string; nullable?: string })
  | (Base & { kind: "choice"; options: { value: string; label: string; name?: string }[] })
  | (Base & { kind: "list" })
  | (Base & { kind: "own"; Input: ComponentType<OwnProps> })
  | (Base & Picked & { kind: "one" | "many"; none?: string });

/** Methods, so that one who knows more of an item can stand for all. */
interface Picked<T extends ConfigItem = ConfigItem> {
  from: Resource<T>;
  labelOf(item: T): string;
}

/** A resource whose items a picker shows; the label function knows the real type. */
export function picked<T extends ConfigItem>(from: Resource<T>, labelOf: (item: T) => string): Picked {
  return { from, labelOf } satisfies Picked<T>;
}

/** What a thing is for, in a sentence. */
export const DESCRIPTION: Field = {
  kind: "text",
  name: "description",
  label: "What it is for",
  help: "A sentence, shown in lists and wherever it is chosen.",
};
