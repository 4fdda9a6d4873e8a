import { useQuery } from "@tanstack/react-query";
import type { Definition } from "../../../api/client";
import { keys } from "../../../api/keys";
import { lookups } from "../../../api/resources";
import type { Held } from "./RefPicker";

/** What the stops of a flow take from looked-up rows, with what the columns hold. */
export function useRowValues(definition: Definition): Held[] {
  const steps = definition.steps.filter((step) => step.kind === "lookup");
  const ids = [
    ...new Set(steps.map((step) => step.table?.slice("table:".length)).filter((id) => id !== undefined)),
  ].sort();
  const query = { ids: ids.join(","), page_size: 500 };
  const tables = useQuery({
    queryKey: keys.list("lookups", query),
    queryFn: () => lookups.list(query),
    enabled: ids.length > 0,
  });
  const columnsOf = (ref: string | null) =>
    tables.data?.results.find((table) => `table:${table.id}` === ref)?.columns ?? [];
  return steps.flatMap((step) =>
    step.take.map((take): Held => ({
      name: take.into,
      label: `${take.into}, from ${take.column}`,
      row: true,
      type: columnsOf(step.table).find((column) => column.name === take.column)?.type ?? "text",
    })),
  );
}
