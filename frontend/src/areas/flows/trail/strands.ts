/** The bundle of strands that a trail is drawn as: one for each ending still reachable from it. */

export const FATES = ["ended", "person", "callback", "message", "elsewhere"] as const;

export const fateLooks: Record<string, { word: string; colour: string; ink: string }> = {
  ended: { word: "Ended by us", colour: "var(--fate-ended)", ink: "var(--plum-ink)" },
  person: { word: "With a person", colour: "var(--fate-person)", ink: "var(--fern-ink)" },
  callback: { word: "Callback booked", colour: "var(--fate-callback)", ink: "var(--fate-callback-ink)" },
  message: { word: "Message left", colour: "var(--fate-message)", ink: "var(--ochre-ink)" },
  elsewhere: { word: "Sent elsewhere", colour: "var(--fate-elsewhere)", ink: "var(--fate-elsewhere)" },
};

export interface Strand {
  fate: string;
  width: number;
  offset: number;
}

const BEND = 14;
const GAP = 1;

/** Widths by the share of callers, and each strand's distance from the middle of the bundle. */
export function strandsOf(fates: Record<string, number>, volume: number): Strand[] {
  const whole = 3 + 8 * Math.sqrt(volume);
  const found = FATES.filter((fate) => fate in fates).map((fate) => ({
    fate,
    width: Math.max(2.2, whole * (fates[fate] ?? 0)),
    offset: 0,
  }));
  const total = found.reduce((sum, s) => sum + s.width, 0) + GAP * Math.max(0, found.length - 1);
  let at = -total / 2;
  for (const strand of found) {
    strand.offset = at + strand.width / 2;
    at += strand.width + GAP;
  }
  return found;
}

/** How thick a bundle is. */
export function thickness(strands: Strand[]): number {
  return strands.reduce((sum, s) => sum + s.width + GAP, 0);
}

export interface Point {
  x: number;
  y: number;
}

/** A corner of the way, moved to the right hand of the direction by `offset` on both sides. */
function corner(at: Point, before: Point, after: Point, offset: number): Point {
  const vertical = Math.abs(before.x - at.x) < 0.5 ? before : after;
  const down = vertical === before ? at.y > before.y : after.y > at.y;
  return { x: at.x + (down ? -offset : offset), y: at.y + offset };
}

function towards(from: Point, to: Point, length: number): Point {
  const whole = Math.abs(to.x - from.x) + Math.abs(to.y - from.y);
  const part = whole < 0.01 ? 0 : Math.min(length, whole / 2) / whole;
  return { x: from.x + (to.x - from.x) * part, y: from.y + (to.y - from.y) * part };
}

/** The path of one strand along a way of horizontals and verticals, with rounded bends. */
export function pathOf(way: Point[], offset: number): string {
  const moved = way.map((at, i) => {
    const before = way[i - 1];
    const after = way[i + 1];
    return before && after ? corner(at, before, after, offset) : { x: at.x, y: at.y + offset };
  });
  return moved
    .map((at, i) => {
      const before = moved[i - 1];
      const after = moved[i + 1];
      if (!before) return `M${at.x} ${at.y}`;
      if (!after) return `L${at.x} ${at.y}`;
      const into = towards(at, before, BEND);
      const out = towards(at, after, BEND);
      return `L${into.x} ${into.y} Q${at.x} ${at.y} ${out.x} ${out.y}`;
    })
    .join(" ");
}
