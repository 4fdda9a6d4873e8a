/**
 * The trail map lays itself out: nobody drags a box.
 *
 * Depth-first in the author's order, every ending takes the next lane; a stop stands on the lane
 * of its straight arm, a menu at the mean of its arms. An arm to a stop on the way here is a
 * return (a stub with the stop's name); to a stop that stands elsewhere already, a join. Columns
 * follow the longest way, and a stop moves right where its words would lie on another's. An edit
 * therefore moves only what comes after it.
 */
import type { Inspection, Stop } from "../../../api/client";
import { FOLDED } from "./collapse";

/** How a map is spaced (px): its words have one size, however much room there is. */
export interface Spacing {
  lane: number;
  /** The lane of an arm that joins another. */
  half: number;
  /** Room for the words under a menu's post. */
  post: number;
  /** From a plain stop to the next. */
  step: number;
  /** What an arm needs beside its label, from a menu and from other stops. */
  besideKey: number;
  besideFork: number;
  /** How far before a stop the arms that join it come together; from below, clear of its words. */
  merge: number;
  nudge: number;
  /** How wide a stop's words are at the most: its title's, its sentence's; and in how many lines. */
  title: number;
  sentence: number;
  lines: number;
  finish: number;
}

const ROOMY: Spacing = {
  lane: 52,
  half: 34,
  post: 24,
  step: 104,
  besideKey: 66,
  besideFork: 78,
  merge: 30,
  nudge: 23,
  title: 128,
  sentence: 104,
  lines: 2,
  finish: 84,
};
/** Where the map would not fit otherwise. */
const TIGHT: Spacing = {
  lane: 44,
  half: 30,
  post: 36,
  step: 88,
  besideKey: 56,
  besideFork: 72,
  merge: 26,
  nudge: 12,
  title: 100,
  sentence: 92,
  lines: 1,
  finish: 64,
};
/** How far above the straight arm trouble runs that leads to the same stop. */
const ABOVE = 38;
const MOST_NUDGES = 80;
const START_X = 44;
const TOP = 34;

export type ArmKind = "own" | "join" | "return" | "ending" | "open";

export interface PlacedStop {
  stop: Stop;
  x: number;
  y: number;
  /** A menu's post runs between these. */
  top: number;
  bottom: number;
  reached: boolean;
}

export interface PlacedArm {
  key: string;
  from: string;
  exit: string;
  to: string | null;
  kind: ArmKind;
  label: string;
  failure: boolean;
  /** The lane on which it leaves. */
  y: number;
  x0: number;
  x1: number;
  y1: number;
  /** How far before its stop a joining arm comes in. */
  merge: number;
  fates: Record<string, number>;
  /** Callers on it, of one who arrives (0 to 1). */
  volume: number;
}

export interface Flag {
  key: string;
  from: string;
  y: number;
  fate: string;
  place: string;
}

export interface Trail {
  stops: Map<string, PlacedStop>;
  arms: PlacedArm[];
  flags: Flag[];
  width: number;
  height: number;
  finish: number;
  spacing: Spacing;
}

type Draft = Omit<PlacedArm, "x0" | "x1" | "y1" | "merge">;

/** About how wide a label is, in px. */
export function textWidth(text: string, size = 11.5): number {
  return text.length * size * 0.56;
}

/** Whether an exit for trouble leads where another exit of the stop leads already. */
function sharing(stop: Stop, exit: Stop["exits"][number]): boolean {
  const at = stop.exits.indexOf(exit);
  return (
    exit.failure &&
    exit.to !== null &&
    stop.exits.some((other, i) => other !== exit && other.to === exit.to && (!other.failure || i < at))
  );
}

/** Whether an exit for trouble runs just above the straight arm, which leads to the same stop. */
function alongside(stop: Stop, exit: Stop["exits"][number]): boolean {
  return exit !== stop.exits[0] && exit.to === stop.exits[0]?.to && sharing(stop, exit);
}

class Surveyor {
  readonly placed = new Map<string, { y: number; top: number; bottom: number }>();
  readonly arms: Draft[] = [];
  readonly flags: Flag[] = [];
  readonly order: string[] = [];
  private cursor = TOP;

  constructor(
    private readonly stops: Map<string, Stop>,
    readonly spacing: Spacing,
  ) {}

  private lane(size: number): number {
    const y = this.cursor + size / 2;
    this.cursor += size;
    return y;
  }

  /** Where an arm leads, seen from the way that came here. */
  private kindOf(stop: Stop, exit: Stop["exits"][number], way: Set<string>): ArmKind {
    if (exit.ends) return "ending";
    if (exit.to === null || !this.stops.has(exit.to)) return "open";
    if (way.has(exit.to)) return "return";
    if (this.placed.has(exit.to)) return "join";
    return sharing(stop, exit) ? "join" : "own";
  }

  /** The author's order, without trouble that leads where the straight arm leads; silence beside the key that leads to the same stop, or at the top where that is above. */
  private ordered(stop: Stop): Stop["exits"] {
    const silence = stop.exits.find((exit) => exit.name === "no_key");
    if (stop.kind !== "menu") return stop.exits.filter((exit) => !alongside(stop, exit));
    if (!silence || silence.to === null) return stop.exits;
    const others = stop.exits.filter((exit) => exit !== silence);
    const beside = others.findIndex((exit) => exit.to === silence.to);
    if (beside >= 0) return [...others.slice(0, beside), silence, ...others.slice(beside)];
    return this.placed.has(silence.to) ? [silence, ...others] : stop.exits;
  }

  /** Place a stop and everything that it owns; returns its lane. */
  place(id: string, way: Set<string>): number {
    const stop = this.stops.get(id);
    if (!stop) return this.lane(this.spacing.lane);
    const onward = new Set(way).add(id);
    const entry = { y: 0, top: 0, bottom: 0 };
    this.placed.set(id, entry);
    const lanes = this.ordered(stop).map((exit) => this.arm(stop, exit, onward));
    if (stop.kind !== "menu")
      stop.exits
        .filter((exit) => alongside(stop, exit))
        .forEach((exit, i) => this.arm(stop, exit, onward, (lanes[0] ?? 0) - ABOVE * (i + 1)));
    if (stop.fate === "ended") {
      lanes.push(this.lane(this.spacing.lane));
      this.flags.push({ key: id, from: id, y: lanes[0] ?? 0, fate: "ended", place: stop.place });
    }
    if (lanes.length === 0) lanes.push(this.lane(this.spacing.lane));
    if (stop.kind === "menu") this.cursor += this.spacing.post;
    const first = lanes[0] ?? 0;
    const last = lanes[lanes.length - 1] ?? first;
    entry.y = stop.kind === "menu" ? (first + last) / 2 : first;
    entry.top = first;
    entry.bottom = last;
    this.order.unshift(id);
    return entry.y;
  }

  private arm(stop: Stop, exit: Stop["exits"][number], way: Set<string>, at?: number): number {
    const kind = this.kindOf(stop, exit, way);
    const target = exit.to === null ? undefined : this.stops.get(exit.to);
    const y =
      at !== undefined
        ? at
        : kind === "own" && exit.to !== null
          ? this.place(exit.to, way)
          : this.lane(kind === "ending" ? this.spacing.lane : this.spacing.half);
    const folded = exit.name === FOLDED;
    const own = folded ? stop.fates : { [stop.fate ?? "person"]: 1 };
    const fates = kind === "ending" ? own : (target?.fates ?? { ended: 1 });
    this.arms.push({
      key: `${stop.id} ${exit.name}`,
      from: stop.id,
      exit: exit.name,
      to: target ? exit.to : null,
      kind,
      label: exit.label,
      failure: exit.failure,
      y,
      fates,
      volume: Math.min(1, stop.reach * exit.share),
    });
    if (kind === "ending")
      this.flags.push({
        key: `${stop.id} ${exit.name}`,
        from: stop.id,
        y,
        fate: folded ? FOLDED : (stop.fate ?? "person"),
        place: stop.place,
      });
    return y;
  }

  get height(): number {
    return this.cursor;
  }
}

/** How far the next stop stands, for an arm. */
function reach(stop: Stop, arm: Draft, { step, besideKey, besideFork }: Spacing): number {
  if (stop.kind === "menu") return Math.max(step, textWidth(arm.label) + besideKey);
  if (stop.kind !== "say" && stop.kind !== "end")
    return Math.max(step + besideFork - 48, textWidth(arm.label) + besideFork);
  return step;
}

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

function meet(a: Box, b: Box): boolean {
  return a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;
}

/** Half the width of the words under a stop. */
function halfOf(stop: Stop, { title, sentence }: Spacing): number {
  return Math.max(Math.min(textWidth(stop.title, 11), title), Math.min(sentence, textWidth(stop.sentence, 11))) / 2;
}

function mergeOf(target: Stop, fromBelow: boolean, spacing: Spacing): number {
  return fromBelow ? Math.max(spacing.merge, halfOf(target, spacing) + 8) : spacing.merge;
}

/** The places that a stop and its words take. */
function boxesOf(stop: Stop, x: number, spot: { y: number; top: number; bottom: number }, spacing: Spacing): Box[] {
  const half = halfOf(stop, spacing);
  const menu = stop.kind === "menu";
  const low = menu ? spot.bottom + 26 : spot.y + 15;
  return [
    { left: x - 16, right: x + 16, top: menu ? spot.top - 26 : spot.y - 15, bottom: low },
    {
      left: x - half,
      right: x + half,
      top: low,
      bottom: low + (spacing.lines > 1 && stop.sentence.length > 19 ? 39 : 27),
    },
  ];
}

/** The places that the words on a stop's arms take. */
function wordsOf(stop: Stop, x: number, arms: Draft[], spacing: Spacing): Box[] {
  const from = x + (stop.kind === "menu" ? 20 : 54);
  return arms
    .filter((arm) => arm.exit !== "next" && arm.kind !== "ending")
    .map((arm) => ({
      left: from,
      right: from + textWidth(arm.label) + (spacing.lines > 1 ? 26 : 14),
      top: arm.y - 20,
      bottom: arm.y - 3,
    }));
}

interface Columns {
  x: Map<string, number>;
  taken: Box[];
}

/** Columns by the longest way, nudged right where words would meet; `order` is topological without returns. */
function columns(survey: Surveyor, stops: Map<string, Stop>, least: Map<string, number>): Columns {
  const x = new Map<string, number>(least);
  const taken: Box[] = [];
  for (const id of survey.order) {
    const stop = stops.get(id);
    const spot = survey.placed.get(id);
    if (!stop || !spot) continue;
    const arms = survey.arms.filter((arm) => arm.from === id);
    let at = x.get(id) ?? START_X + 96;
    for (
      let n = 0;
      n < MOST_NUDGES && boxesOf(stop, at, spot, survey.spacing).some((box) => taken.some((other) => meet(box, other)));
      n += 1
    )
      at += survey.spacing.nudge;
    x.set(id, at);
    taken.push(...boxesOf(stop, at, spot, survey.spacing), ...wordsOf(stop, at, arms, survey.spacing));
    for (const arm of arms) {
      if (arm.to === null || arm.kind === "return") continue;
      x.set(arm.to, Math.max(x.get(arm.to) ?? 0, at + reach(stop, arm, survey.spacing)));
    }
    taken.push(...arms.filter((arm) => arm.kind === "return").map((arm) => pillOf(arm, at, stops)));
  }
  return { x, taken };
}

/** Where a return's pill stands. */
function pillOf(arm: Draft, x: number, stops: Map<string, Stop>): Box {
  const left = x + textWidth(arm.label) + 52;
  const name = stops.get(arm.to ?? "")?.name ?? "";
  return { left, right: left + textWidth(name.slice(0, 24)) + 40, top: arm.y - 10, bottom: arm.y + 10 };
}

/** A stop that others join stands far enough right for their verticals to cross no words. */
function clearColumns(survey: Surveyor, stops: Map<string, Stop>): Map<string, number> {
  const least = new Map<string, number>();
  for (let round = 0; ; round += 1) {
    const { x, taken } = columns(survey, stops, least);
    const crossed = survey.arms.find((arm) => {
      const target = arm.kind === "join" && arm.to !== null ? survey.placed.get(arm.to) : undefined;
      const stop = stops.get(arm.to ?? "");
      if (!target || !stop) return false;
      const at = (x.get(stop.id) ?? 0) - mergeOf(stop, arm.y > target.y, survey.spacing);
      const way = {
        left: at - 5,
        right: at + 5,
        top: Math.min(arm.y, target.y) + 1,
        bottom: Math.max(arm.y, target.y) - 1,
      };
      return taken.some((box) => meet(box, way));
    });
    if (!crossed?.to || round >= MOST_NUDGES) return x;
    least.set(crossed.to, (x.get(crossed.to) ?? 0) + survey.spacing.nudge);
  }
}

/** Lay out everything that an inspection describes: roomy where that fits in so many px, else tight. */
export function layOut(inspection: Inspection, start: string | null, room = Infinity): Trail {
  const roomy = spaced(inspection, start, ROOMY);
  return roomy.width <= room ? roomy : spaced(inspection, start, TIGHT);
}

/** What the words of the endings take, beyond the finish line. */
export const ENDINGS = 160;
/** The finish line of a short flow. */
const LEAST = 700;

function spaced(inspection: Inspection, start: string | null, spacing: Spacing): Trail {
  const stops = new Map(inspection.stops.map((stop) => [stop.id, stop]));
  const survey = new Surveyor(stops, spacing);
  if (start && stops.has(start)) survey.place(start, new Set());
  const reached = new Set(survey.placed.keys());
  const led = new Set(inspection.stops.filter((s) => !reached.has(s.id)).flatMap((s) => s.exits.map((e) => e.to)));
  const islands = inspection.stops.filter((s) => !reached.has(s.id));
  for (const island of [...islands.filter((s) => !led.has(s.id)), ...islands]) {
    if (!survey.placed.has(island.id)) survey.place(island.id, new Set());
  }
  const xs = clearColumns(survey, stops);
  const finish = Math.max(LEAST, ...[...xs.values()].map((x) => x + spacing.finish));
  const placed = new Map<string, PlacedStop>();
  for (const [id, spot] of survey.placed) {
    const stop = stops.get(id);
    if (stop) placed.set(id, { stop, x: xs.get(id) ?? 0, ...spot, reached: reached.has(id) });
  }
  const arms = survey.arms.map((arm): PlacedArm => {
    const from = placed.get(arm.from);
    const to = arm.to === null ? undefined : placed.get(arm.to);
    const x0 = from?.x ?? 0;
    if (arm.kind === "ending") return { ...arm, x0, x1: finish, y1: arm.y, merge: spacing.merge };
    const merge = to ? mergeOf(to.stop, arm.y > to.y, spacing) : spacing.merge;
    if (to && arm.kind !== "return") return { ...arm, x0, x1: to.x, y1: to.y, merge };
    return { ...arm, merge, x0, x1: x0 + textWidth(arm.label) + 52, y1: arm.y };
  });
  return {
    stops: placed,
    arms,
    flags: survey.flags,
    finish,
    width: finish + ENDINGS,
    height: survey.height + 46,
    spacing,
  };
}
