/** Keys of the query cache, so that invalidation cannot miss. */
export const keys = {
  session: ["session"] as const,
  list: (what: string, query: object) => [what, "list", query] as const,
  one: (what: string, id: string) => [what, "one", id] as const,
  all: (what: string) => [what] as const,
  uses: (what: string, id: string) => [what, "uses", id] as const,
  inspection: (flow: string, text: string) => ["flows", "inspection", flow, text] as const,
  clashes: (flow: string, text: string) => ["flows", "clashes", flow, text] as const,
  versions: (flow: string) => ["flows", "versions", flow] as const,
  flowRules: ["flow-rules"] as const,
  /** Anything else of a kind of things, what it is first. */
  of: (what: string, ...rest: (string | number | object | null | undefined)[]) => [what, ...rest] as const,
  search: (text: string) => ["search", text] as const,
};
