import { isLate } from "../../frame/late";

/** What the sentence looks at: of the floor, or of a wall. */
export interface Behind {
  name: string;
  threshold_s: number;
  available: number;
  signed_in: number;
  waiting: { late_from_ms: number }[];
}

/** The one sentence that says what is wrong now, or that nothing is. */
export function verdict(
  queues: Behind[],
  centre: { signed_in: number; waiting: number },
  now: number,
  inNeed: string[],
): { bad: boolean; text: string } {
  if (inNeed.length > 0) return { bad: true, text: `Emergency: ${inNeed.join(", ")}` };
  const late = (queue: Behind) => queue.waiting.filter((wait) => isLate(wait, now)).length;
  const worst = queues.map((queue) => ({ queue, late: late(queue) })).sort((a, b) => b.late - a.late)[0];
  if (worst && worst.late > 0) {
    const { queue } = worst;
    const free = queue.available
      ? `${queue.available} available`
      : queue.signed_in
        ? "nobody is available"
        : "nobody is signed in";
    const minutes = `${Math.floor(queue.threshold_s / 60)}:${String(queue.threshold_s % 60).padStart(2, "0")}`;
    return {
      bad: true,
      text: `${queue.name} is behind: ${worst.late} of ${queue.waiting.length} have waited longer than ${minutes}, ${free}`,
    };
  }
  const alone = queues.find((queue) => queue.waiting.length > 0 && queue.signed_in === 0);
  if (alone) return { bad: true, text: `${alone.name}: ${alone.waiting.length} waiting, nobody is signed in` };
  if (centre.signed_in === 0) return { bad: false, text: "Nobody is signed in" };
  return {
    bad: false,
    text: centre.waiting ? `${centre.waiting} waiting, all within their threshold` : "Nobody waits",
  };
}
