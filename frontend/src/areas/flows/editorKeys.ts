import type { Definition } from "../../api/client";
import { addArm, leadingTo, removeStep, stepOf } from "./edits";
import type { Clipboard } from "./useClipboard";
import type { FlowDraft } from "./useFlowDraft";

interface Acts {
  enter: () => void;
  select: (id: string | null) => void;
  call: () => void;
  about: () => void;
  find: () => void;
  help: () => void;
  add: () => void;
  block: () => void;
  fold: () => void;
}

/** Take the chosen stops out; the trail heals. */
export function without(definition: Definition, chosen: string[]): Definition {
  return chosen.reduce((left, id) => removeStep(left, id), definition);
}

/** Keys of the editor, where no field is being typed in. */
export function editorKeys(draft: FlowDraft, chosen: string[], mayChange: boolean, clipboard: Clipboard, act: Acts) {
  const selected = chosen[chosen.length - 1] ?? null;
  const { definition } = draft;
  const changing = (key: string): boolean => {
    if (!definition || !mayChange) return false;
    const step = stepOf(definition, selected);
    if (key === "a") act.add();
    else if (key === "c" && selected) clipboard.copy(chosen, true);
    else if (key === "b" && selected) act.block();
    else if (key === "v" && clipboard.full()) clipboard.paste();
    else if (key === "f" && step?.kind === "menu") draft.edit(addArm(definition, step));
    else if (key === "delete" && selected) {
      draft.edit(without(definition, chosen));
      act.select(leadingTo(definition, chosen[0] ?? selected));
    } else return false;
    return true;
  };
  const withControl = (key: string, shift: boolean): boolean => {
    // Words that are marked are what the browser copies.
    const stops = mayChange && !window.getSelection()?.toString();
    if (key === "c" && stops && selected) clipboard.copy(chosen, false);
    else if (key === "v" && stops && clipboard.full()) clipboard.paste();
    else if (key === "y" || (key === "z" && shift)) draft.redo();
    else if (key === "z") draft.undo();
    else return false;
    return true;
  };
  return (event: React.KeyboardEvent) => {
    const key = event.key.toLowerCase();
    if (event.ctrlKey || event.metaKey) {
      if (!withControl(key, event.shiftKey)) return;
    } else if (key === "enter" && selected) act.enter();
    else if (key === "t") act.call();
    else if (key === "i") act.about();
    else if (key === "/") act.find();
    else if (key === "?") act.help();
    else if (key === "-" && selected) act.fold();
    else if (key === "escape") act.select(null);
    else if (!changing(key)) return;
    event.preventDefault();
    event.stopPropagation();
  };
}
