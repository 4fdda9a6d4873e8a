import { startTransition, useState } from "react";
import { flushSync } from "react-dom";

/** What of the map is chosen, and what is folded away. The last one chosen is the selected one; its sheet is shown. */
export function useChoice(selectedOne: (id: string | null) => void) {
  const [chosen, setChosen] = useState<string[]>([]);
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const selected = chosen[chosen.length - 1] ?? null;
  const [shown, setShown] = useState<string | null>(null);
  const [walking, setWalking] = useState(false);
  const showing = (id: string | null) => {
    setShown(id);
    setWalking(false);
  };
  return {
    chosen,
    selected,
    shown,
    walking,
    folded,
    select: (id: string | null) => {
      setChosen(id ? [id] : []);
      showing(id);
      selectedOne(id);
    },
    /** Choose while walking by keys: the map follows at once, the sheet as soon as there is time. */
    walkTo: (id: string) => {
      setChosen([id]);
      setWalking(true);
      startTransition(() => {
        showing(id);
        selectedOne(id);
      });
    },
    /** The sheet of the selected stop, now. */
    show: () => {
      flushSync(() => {
        if (walking) selectedOne(selected);
        showing(selected);
      });
    },
    selectMore: (id: string) => {
      setChosen((before) => [...before.filter((one) => one !== id), id]);
      showing(id);
    },
    toggleFold: (id: string | null) => {
      if (id)
        setFolded((before) => new Set(before.has(id) ? [...before].filter((one) => one !== id) : [...before, id]));
    },
  };
}

export type Choice = ReturnType<typeof useChoice>;
