/** The copied stops, or arm, kept by the browser, so that they can be pasted into another flow. */
import type { Copy } from "./edits";

const KEY = "hazeridge-copied-stops";

export function keepCopy(copy: Copy): void {
  localStorage.setItem(KEY, JSON.stringify(copy));
}

export function keptCopy(): Copy | null {
  try {
    const copy = JSON.parse(localStorage.getItem(KEY) ?? "null") as Copy | null;
    return copy && (copy.steps.length > 0 || copy.arm) ? copy : null;
  } catch {
    return null;
  }
}
