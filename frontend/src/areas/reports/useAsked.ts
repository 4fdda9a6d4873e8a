import { useSearchParams } from "react-router-dom";

/** What a report is asked with stands in the address: it can be kept, sent, and gone back to. */
export function useAsked() {
  const [params, setParams] = useSearchParams();
  const get = (name: string) => params.get(name) ?? "";
  const set = (values: Record<string, string>) => {
    // The address as it is by now: what was set just before may not have been drawn yet.
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(values)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    setParams(next, { replace: true });
  };
  return { get, set };
}

export type Asked = ReturnType<typeof useAsked>;

const names = ["period", "first", "last", "weekdays", "from", "until"] as const;

/** The days of a report, as every report of the API takes them. */
export function periodOf(asked: Asked): Partial<Record<(typeof names)[number], string>> {
  const found = Object.fromEntries(names.map((name) => [name, asked.get(name)]).filter(([, value]) => value));
  return found.first ? found : { period: "7days", ...found };
}
