import { useSnackbar } from "notistack";
import type { Definition, Step } from "../../api/client";
import { keepCopy, keptCopy } from "./clipboard";
import { copied, copiedArm, copiedOnly, type Copy, pasted } from "./edits";
import type { FlowDraft } from "./useFlowDraft";

/** What was copied, in words. */
function said(copy: Copy): string {
  const stops = copy.steps.length;
  const what = copy.arm
    ? stops
      ? `A way with ${stops} ${stops === 1 ? "stop" : "stops"}`
      : "A way"
    : stops === 1
      ? "A stop"
      : `${stops} stops`;
  return `${what} copied: V pastes after the chosen stop, in this flow or another.`;
}

/** Copying stops and arms, and pasting them after the chosen stop; kept by the browser for other flows. */
export function useClipboard(
  draft: FlowDraft,
  definition: Definition | null,
  selected: string | null,
  select: (id: string | null) => void,
) {
  const { enqueueSnackbar } = useSnackbar();
  const keep = (copy: Copy) => {
    keepCopy(copy);
    enqueueSnackbar(said(copy));
  };
  return {
    /** Whether there is something to paste: another window may have copied it. */
    full: () => keptCopy() !== null,
    /** Stops by themselves; with `all`, one with everything that follows it. */
    copy: (chosen: string[], all: boolean) => {
      const [first] = chosen;
      if (definition && first)
        keep(all && chosen.length === 1 ? copied(definition, first) : copiedOnly(definition, chosen));
    },
    copyArm: (step: Step, exit: string) => {
      if (definition) keep(copiedArm(definition, step, exit));
    },
    paste: () => {
      const copy = keptCopy();
      if (!copy || !definition) return;
      const grown = pasted(definition, selected, copy);
      draft.edit(grown.definition);
      select(grown.made);
    },
  };
}

export type Clipboard = ReturnType<typeof useClipboard>;
