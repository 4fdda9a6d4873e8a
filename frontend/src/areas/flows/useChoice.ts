import { useState } from "react";

/** What of the map is chosen, and what is folded away. The last one chosen is the selected one. */
export function useChoice(selectedOne: (id: string | null) => void) {
  const [chosen, setChosen] = useState<string[]>([]);
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const selected = chosen[chosen.length - 1] ?? null;
  return {
    chosen, selected, folded,
    select: (id: string | null) => {
      setChosen(id ? [id] : []);
      selectedOne(id);
    },
    selectMore: (id: string) => { setChosen((before) => [...before.filter((one) => one !== id), id]); },
    toggleFold: (id: string | null) => {
      if (id) setFolded((before) => new Set(before.has(id) ? [...before].filter((one) => one !== id) : [...before, id]));
    },
  };
}

export type Choice = ReturnType<typeof useChoice>;
