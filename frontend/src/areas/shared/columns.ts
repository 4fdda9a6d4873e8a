import type { GridColDef } from "@mui/x-data-grid";
import { useState } from "react";
import type { ConfigItem } from "../../api/resources";

/** A column of a list; one that is `spare` is not shown until somebody chooses it. */
export type Column<T extends ConfigItem> = GridColDef<T & { id: string }> & { spare?: boolean };

/** Those that stand side by side in a width without being cut, from the first on; the first is always there. */
export function fitting<C extends Pick<GridColDef, "width" | "minWidth">>(columns: C[], width: number): C[] {
  let used = 0;
  return columns.filter((column, at) => {
    const needed = column.width ?? column.minWidth ?? 100;
    if (at > 0 && used + needed > width) return false;
    used += needed;
    return true;
  });
}

function kept(key: string): string[] | null {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(key) ?? "null");
    return Array.isArray(found) ? found.map(String) : null;
  } catch {
    return null;
  }
}

/** The columns of a list that somebody has chosen, in the list's order; kept in this browser. */
export function useChosenColumns<C extends { field: string; spare?: boolean }>(list: string, columns: C[]) {
  const key = `hazeridge.columns.${list}`;
  const usual = columns.filter((column) => !column.spare).map((column) => column.field);
  const [chosen, setChosen] = useState(() => kept(key) ?? null);
  const choose = (next: string[]) => {
    const same = next.length === usual.length && usual.every((field) => next.includes(field));
    setChosen(same ? null : next);
    if (same) localStorage.removeItem(key);
    else localStorage.setItem(key, JSON.stringify(next));
  };
  const fields = chosen ?? usual;
  const shown = columns.filter((column, at) => at === 0 || fields.includes(column.field));
  return { usual, chosen: fields, choose, shown };
}
