import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Finding, Inspection } from "../../../api/client";
import { asButton } from "./asButton";
import { FlagShape, StopGlyph } from "./glyphs";
import { type Flag, layOut, type PlacedArm, type PlacedStop, type Trail } from "./layout";
import { fateLooks, strandsOf } from "./strands";
import { ArmLabel, TrailStrands } from "./TrailArm";
import { fold, FOLDED } from "./collapse";
import { Overview } from "./Overview";
import { type Mark, TrailStop } from "./TrailStop";

/** What a trial call has walked so far. */
export interface Walk {
  steps: Map<string, string>;
  arms: Set<string>;
  current: string | null;
}

interface Props {
  inspection: Inspection;
  start: string | null;
  /** What brings callers here, in two lines. */
  begins: { head: string; words: string };
  selected: string | null;
  select: (id: string | null) => void;
  /** Choose a stop that the keys came to. */
  walkTo?: (id: string) => void;
  walk: Walk | null;
  here: Record<string, number>;
  counts: Record<string, number>;
  keys: (event: React.KeyboardEvent) => void;
  /** Stops that are chosen besides the selected one. */
  also?: Set<string>;
  /** Choose one more stop, or from here on to there. */
  selectMore?: (id: string) => void;
  marks?: Map<string, Mark>;
  /** Stops whose arms are folded away; a click on what stands for them opens them. */
  folded?: Set<string>;
  unfold?: (id: string) => void;
  /** A dialog lies over the map; when it goes, the map has the keyboard again. */
  covered: boolean;
}

function worst(findings: Finding[]): Map<string, Finding["severity"]> {
  const found = new Map<string, Finding["severity"]>();
  for (const finding of findings) if (!found.has(finding.step)) found.set(finding.step, finding.severity);
  return found;
}

const SMALLEST = 0.72;

/** A map that is a little too large is drawn a little smaller; a far too large one scrolls. */
function useFit(box: React.RefObject<HTMLDivElement | null>, width: number, height: number): { scale: number; measured: boolean } {
  const [room, setRoom] = useState<{ width: number; height: number } | null>(null);
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const watcher = new ResizeObserver(([entry]) => { if (entry) setRoom(entry.contentRect); });
    watcher.observe(element);
    return () => { watcher.disconnect(); };
  }, [box]);
  const scale = room ? Math.min(1, Math.max(SMALLEST, Math.min(room.width / width, room.height / height))) : 1;
  return { scale, measured: room !== null };
}

function byStop(trail: Trail): Map<string, PlacedArm[]> {
  const found = new Map<string, PlacedArm[]>();
  for (const arm of trail.arms) found.set(arm.from, [...(found.get(arm.from) ?? []), arm]);
  return found;
}

/** The map opens where callers begin, which in a tall one lies far down. */
function useBeginning(box: React.RefObject<HTMLDivElement | null>, y: number | undefined) {
  const opened = useRef(false);
  useEffect(() => {
    const element = box.current;
    if (opened.current || !element || y === undefined) return;
    opened.current = true;
    element.scrollTo({ top: y - element.clientHeight / 2 });
  }, [box, y]);
}

/** The stop that an arrow key leads to. */
export function neighbour(trail: Trail, from: string, key: string): string | null {
  const at = trail.stops.get(from);
  if (!at) return null;
  if (key === "ArrowRight") return trail.arms.find((arm) => arm.from === from && arm.to !== null && arm.kind !== "return")?.to ?? null;
  if (key === "ArrowLeft") return trail.arms.find((arm) => arm.to === from && arm.kind === "own")?.from ?? null;
  const sign = key === "ArrowDown" ? 1 : -1;
  const far = (id: string) => {
    const other = trail.stops.get(id);
    return other ? Math.abs(other.y - at.y) + Math.abs(other.x - at.x) * 0.6 : Infinity;
  };
  const beyond = [...trail.stops].filter(([id, stop]) => id !== from && (stop.y - at.y) * sign > 4).map(([id]) => id);
  return beyond.sort((a, b) => far(a) - far(b))[0] ?? null;
}

function Begin({ trail, start, begins, grey }: { trail: Trail; start: string | null; begins: Props["begins"]; grey: boolean }) {
  const first = start ? trail.stops.get(start) : undefined;
  const y = first?.y ?? 60;
  return (
    <g>
      {first && strandsOf(first.stop.fates, 1).map((strand) => (
        <path key={strand.fate} d={`M44 ${y + strand.offset} H${first.x}`} strokeWidth={strand.width} stroke={grey ? "var(--grey-trail)" : fateLooks[strand.fate]?.colour} fill="none" />
      ))}
      <g transform={`translate(44,${y})`}>
        <circle r="13" fill="var(--pine)" />
        <StopGlyph kind="arrive" colour="var(--sheet)" />
        <text textAnchor="middle" fontSize="11" fill="var(--ink)" stroke="var(--mist)" strokeWidth="3" paintOrder="stroke">
          <tspan x="0" y="28" fontWeight="640">{begins.head}</tspan>
          <tspan x="0" y="41" fill="var(--slate-ink)">{begins.words}</tspan>
        </text>
      </g>
    </g>
  );
}

function reachedBy(walk: Walk | null, flag: Flag): boolean {
  return walk !== null && (walk.arms.has(flag.key) || (flag.fate === "ended" && walk.steps.has(flag.from)));
}

/** An ending on the finish line; an End stop's own trail leads to it. */
function TrailFlag({ flag, finish, stop, walk }: { flag: Flag; finish: number; stop: PlacedStop | undefined; walk: Walk | null }) {
  const look = fateLooks[flag.fate];
  const dull = walk !== null && !reachedBy(walk, flag);
  const width = strandsOf({ ended: 1 }, Math.min(1, stop?.stop.reach ?? 0))[0]?.width;
  return (
    <g>
      {flag.fate === "ended" && stop && <path d={`M${stop.x} ${flag.y} H${finish}`} stroke={dull ? "var(--grey-trail)" : look?.colour} strokeWidth={width} />}
      <g transform={`translate(${finish},${flag.y})`}>
        <FlagShape fate={flag.fate} colour={dull ? "var(--edge)" : (look?.colour ?? "")} />
        <text x="20" y="-4" fontSize="11.5" fontWeight="640" fill={dull ? "var(--slate)" : look?.ink}>{look?.word}</text>
        <text x="20" y="10" fontSize="11.5" fill="var(--slate-ink)">{flag.place.length > 24 ? `${flag.place.slice(0, 23)}…` : flag.place}</text>
      </g>
    </g>
  );
}

/** What stands for folded stops: how many, and a click opens them. */
function FoldedFlag({ flag, finish, count, open }: { flag: Flag; finish: number; count: number; open: () => void }) {
  return (
    <g transform={`translate(${finish},${flag.y})`} {...asButton(`Open ${count} folded ${count === 1 ? "stop" : "stops"}`, open)}>
      <rect x="-6" y="-11" width="104" height="22" rx="11" fill="var(--sheet)" stroke="var(--pine-70)" />
      <text x="46" y="4" textAnchor="middle" fontSize="11.5" fontWeight="620" fill="var(--pine)">+ {count} {count === 1 ? "stop" : "stops"}</text>
    </g>
  );
}

const NONE: Set<string> = new Set();
const NO_ARMS: PlacedArm[] = [];

/** A function that stays the same one and does what was last asked of it. */
function useLatest<A extends unknown[]>(act: (...args: A) => void): (...args: A) => void {
  const latest = useRef(act);
  useEffect(() => { latest.current = act; });
  return useCallback((...args: A) => { latest.current(...args); }, []);
}

/** The flow as a map that lays itself out, walked with the arrow keys. */
export function TrailMap({ inspection: whole, start, begins, selected, select, walkTo = select, walk, here, counts, keys, also = NONE, selectMore = select, marks, folded = NONE, unfold, covered }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const extending = useRef(false);
  const { inspection, counts: hidden } = useMemo(() => fold(whole, start, folded), [whole, start, folded]);
  const trail = useMemo(() => layOut(inspection, start), [inspection, start]);
  const { scale, measured } = useFit(box, trail.width, trail.height);
  const begin = start ? trail.stops.get(start) : undefined;
  useBeginning(box, measured ? begin && begin.y * scale : undefined);
  const armsOf = useMemo(() => byStop(trail), [trail]);
  const findings = useMemo(() => worst(inspection.findings), [inspection]);
  const grey = walk !== null;
  const focus = useCallback((id: string) => {
    const element = box.current?.querySelector<SVGGElement>(`[data-stop="${id}"]`);
    element?.focus({ preventScroll: true });
    element?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, []);
  // One function for all stops, so that a stop is drawn anew only when something of its own has changed.
  const choose = useLatest((id: string, how: "one" | "more" | "focus") => {
    if (how === "more" || (how === "focus" && extending.current)) selectMore(id);
    else if (how === "one") select(id);
    else if (id !== selected) walkTo(id);
  });
  const current = walk?.current;
  useEffect(() => {
    if (current) box.current?.querySelector(`[data-stop="${current}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [current]);
  // Whoever works with the keyboard stays on the map: at its start, at what was added or found, beside what was removed.
  useEffect(() => {
    const active = document.activeElement;
    const ours = active === document.body || active === null || (box.current?.contains(active) ?? false);
    if (!ours) return;
    const wanted = selected ? box.current?.querySelector<SVGGElement>(`[data-stop="${selected}"]`) : box.current;
    if (wanted && wanted !== active) wanted.focus({ preventScroll: selected === null });
  }, [selected, trail, covered]);
  const press = (event: React.KeyboardEvent) => {
    if (event.key.startsWith("Arrow") && !event.altKey && !event.ctrlKey) {
      const to = selected ? neighbour(trail, selected, event.key) : start;
      if (to) {
        extending.current = event.shiftKey;
        focus(to);
        extending.current = false;
      }
      event.preventDefault();
      return;
    }
    keys(event);
  };
  return (
    <div style={{ flex: 1, minHeight: 0, position: "relative", display: "flex" }}>
    <div ref={box} tabIndex={0} role="region" aria-label="Trail map: the arrow keys walk it" style={{ flex: 1, minHeight: 0, overflow: "auto", outlineOffset: -2, outlineColor: "var(--edge)", outlineWidth: 1 }} onKeyDown={press}
      onClick={(event) => { if (event.target === event.currentTarget || (event.target as Element).tagName === "svg") select(null); }}>
      <svg data-trail width={trail.width * scale} height={trail.height * scale} viewBox={`0 0 ${trail.width} ${trail.height}`} role="group" aria-label="Stops" style={{ display: "block" }}>
        <Begin trail={trail} start={start} begins={begins} grey={walk !== null && walk.steps.size === 0} />
        {trail.arms.map((arm) => {
          const from = trail.stops.get(arm.from);
          return from && <TrailStrands key={arm.key} arm={arm} from={from} walked={walk?.arms.has(arm.key) ?? false} grey={grey} />;
        })}
        {trail.flags.map((flag) => flag.fate === FOLDED ? (
          <FoldedFlag key={flag.key} flag={flag} finish={trail.finish} count={hidden.get(flag.from) ?? 0} open={() => unfold?.(flag.from)} />
        ) : (
          <TrailFlag key={flag.key} flag={flag} finish={trail.finish} stop={trail.stops.get(flag.from)} walk={walk} />
        ))}
        {trail.arms.map((arm) => {
          const from = trail.stops.get(arm.from);
          return from && (
            <ArmLabel key={arm.key} arm={arm} from={from} target={arm.to === null ? undefined : trail.stops.get(arm.to)} count={counts[arm.key] ?? 0}
              walked={walk?.arms.has(arm.key) ?? false} grey={grey} goTo={focus} />
          );
        })}
        {[...trail.stops.values()].map((placed) => (
          <TrailStop key={placed.stop.id} placed={placed} arms={armsOf.get(placed.stop.id) ?? NO_ARMS}
            selected={selected === placed.stop.id} current={walk?.current === placed.stop.id} walkedAt={walk?.steps.get(placed.stop.id) ?? null}
            grey={grey} here={here[placed.stop.id] ?? 0} finding={findings.get(placed.stop.id) ?? null}
            also={also.has(placed.stop.id)} mark={marks?.get(placed.stop.id)}
            select={choose} />
        ))}
      </svg>
    </div>
    <Overview box={box} trail={trail} scale={scale} />
    </div>
  );
}
