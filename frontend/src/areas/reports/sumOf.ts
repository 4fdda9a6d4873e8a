/** Where today’s figure of a queue (of all, where none is named) is opened: its sum, and the contacts behind it. */
export function sumOf(figure: string, queue = ""): string {
  return `/learn/reports/queues?${new URLSearchParams({ period: "today", by: "60", ...(queue && { queues: queue }), sum: figure }).toString()}`;
}
