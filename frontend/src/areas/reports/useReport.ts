import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { keys } from "../../api/keys";

const FRESH_MS = 60_000;

/** A report as it is now; what runs still grows. */
export function useReport<Told>(name: string, query: object, ask: () => Promise<Told>, enabled = true) {
  return useQuery({
    queryKey: keys.list(`report-${name}`, query),
    queryFn: ask,
    placeholderData: keepPreviousData,
    refetchInterval: FRESH_MS,
    enabled,
  });
}
