import { type ReactNode, useCallback, useEffect, useMemo, useRef } from "react";
import { createPortal } from "react-dom";
import type { Finding, Inspection } from "../../../api/client";
import { asButton } from "./asButton";
import { FlagShape, StopGlyph } from "./glyphs";
import { ENDINGS, type Flag, layOut, type PlacedArm, type PlacedStop, type Trail } from "./layout";
import { fateLooks, strandsOf } from "./strands";
import { ArmLabel, TrailStrands } from "./TrailArm";
import { fold, FOLDED } from "./collapse";
import { Overview } from "./Overview";
import styles from "./trail.module.css";
import { type Mark, TrailStop } from "./TrailStop";
import { useRoom, useZoom, type Zoom } from "./useZoom";
import { ZoomBar } from "./ZoomBar";

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
  /** What stands under the map, beside its size. */
  foot?: ReactNode;
  /** Where the small map of the whole stands, while not all of it fits. */
  small?: HTMLElement | null;
}

function worst(findings: Finding[]): Map<string, Finding["severity"]> {
  const found = new Map<string, Finding["severity"]>();
  for (const finding of findings) if (!found.has(finding.step)) found.set(finding.step, finding.severity);
  return found;
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
  if (key === "ArrowRight")
    return trail.arms.find((arm) => arm.from === from && arm.to !== null && arm.kind !== "return")?.to ?? null;
  if (key === "ArrowLeft") return trail.arms.find((arm) => arm.to === from && arm.kind === "own")?.from ?? null;
  const sign = key === "ArrowDown" ? 1 : -1;
  const far = (id: string) => {
    const other = trail.stops.get(id);
    return other ? Math.abs(other.y - at.y) + Math.abs(other.x - at.x) * 0.6 : Infinity;
  };
  const beyond = [...trail.stops].filter(([id, stop]) => id !== from && (stop.y - at.y) * sign > 4).map(([id]) => id);
  return beyond.sort((a, b) => far(a) - far(b))[0] ?? null;
}

function Begin({
  trail,
  start,
  begins,
  grey,
}: {
  trail: Trail;
  start: string | null;
  begins: Props["begins"];
  grey: boolean;
}) {
  const first = start ? trail.stops.get(start) : undefined;
  const y = first?.y ?? 60;
  return (
    <g>
      {first &&
        strandsOf(first.stop.fates, 1).map((strand) => (
          <path
            key={strand.fate}
            d={`M44 ${y + strand.offset} H${first.x}`}
            strokeWidth={strand.width}
            stroke={grey ? "var(--grey-trail)" : fateLooks[strand.fate]?.colour}
            fill="none"
          />
        ))}
      <g transform={`translate(44,${y})`}>
        <circle r="13" fill="var(--pine)" />
        <StopGlyph kind="arrive" colour="var(--sheet)" />
        <text
          textAnchor="middle"
          fontSize="11"
          fill="var(--ink)"
          stroke="var(--mist)"
          strokeWidth="3"
          paintOrder="stroke">
          <tspan x="0" y="28" fontWeight="640">
            {begins.head}
          </tspan>
          <tspan x="0" y="41" fill="var(--slate-ink)">
            {begins.words}
          </tspan>
        </text>
      </g>
    </g>
  );
}

function reachedBy(walk: Walk | null, flag: Flag): boolean {
  return walk !== null && (walk.arms.has(flag.key) || (flag.fate === "ended" && walk.steps.has(flag.from)));
}

/** An ending on the finish line; an End stop's own trail leads to it. */
function TrailFlag({ flag, finish, stop, walk }: { flag: Flag; finish: number; stop?: PlacedStop; walk: Walk | null }) {
  const look = fateLooks[flag.fate];
  const dull = walk !== null && !reachedBy(walk, flag);
  const width = strandsOf({ ended: 1 }, Math.min(1, stop?.stop.reach ?? 0))[0]?.width;
  return (
    <g>
      {flag.fate === "ended" && stop && (
        <path
          d={`M${stop.x} ${flag.y} H${finish}`}
          stroke={dull ? "var(--grey-trail)" : look?.colour}
          strokeWidth={width}
        />
      )}
      <g transform={`translate(${finish},${flag.y})`}>
        <FlagShape fate={flag.fate} colour={dull ? "var(--edge)" : (look?.colour ?? "")} />
        <text x="20" y="-4" fontSize="11.5" fontWeight="640" fill={dull ? "var(--slate)" : look?.ink}>
          {look?.word}
        </text>
        <text x="20" y="10" fontSize="11.5" fill="var(--slate-ink)">
          {flag.place.length > 24 ? `${flag.place.slice(0, 23)}…` : flag.place}
        </text>
      </g>
    </g>
  );
}

/** What stands for folded stops: how many, and a click opens them. */
function FoldedFlag({ flag, finish, count, open }: { flag: Flag; finish: number; count: number; open: () => void }) {
  return (
    <g
      transform={`translate(${finish},${flag.y})`}
      {...asButton(`Open ${count} folded ${count === 1 ? "stop" : "stops"}`, open)}>
      <rect x="-6" y="-11" width="104" height="22" rx="11" fill="var(--sheet)" stroke="var(--pine-70)" />
      <text x="46" y="4" textAnchor="middle" fontSize="11.5" fontWeight="620" fill="var(--pine)">
        + {count} {count === 1 ? "stop" : "stops"}
      </text>
    </g>
  );
}

const NONE: Set<string> = new Set();
const NO_ARMS: PlacedArm[] = [];

/** A function that stays the same one and does what was last asked of it. */
function useLatest<A extends unknown[]>(act: (...args: A) => void): (...args: A) => void {
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
  });
  return useCallback((...args: A) => {
    latest.current(...args);
  }, []);
}

/** The map laid out for the room that there is, how large it is drawn, and what of it does not fit. */
function useSized(box: React.RefObject<HTMLDivElement | null>, inspection: Inspection, start: string | null) {
  const room = useRoom(box);
  const trail = useMemo(() => layOut(inspection, start, room?.width), [inspection, start, room?.width]);
  const zoom = useZoom(box);
  const { scale } = zoom;
  const begin = start ? trail.stops.get(start) : undefined;
  useBeginning(box, room ? begin && begin.y * scale : undefined);
  const width = trail.width * scale,
    height = trail.height * scale;
  const wide = room !== null && width > room.width + 1,
    tall = room !== null && height > room.height + 1;
  const fit = () => {
    if (room) zoom.set(Math.min(1, room.width / trail.width, room.height / trail.height));
  };
  const centreOn = (id: string | null) => {
    const at = id ? trail.stops.get(id) : undefined;
    if (at && room)
      box.current?.scrollTo({
        left: at.x * scale - room.width / 2,
        top: at.y * scale - room.height / 2,
        behavior: "smooth",
      });
  };
  return { trail, zoom, width, height, wide, tall, fit, centreOn };
}

/** The flow as a map that lays itself out, walked with the arrow keys. */
export function TrailMap({
  inspection: whole,
  start,
  begins,
  selected,
  select,
  walkTo = select,
  walk,
  here,
  counts,
  keys,
  also = NONE,
  selectMore = select,
  marks,
  folded = NONE,
  unfold,
  covered,
  foot,
  small,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const extending = useRef(false);
  const { inspection, counts: hidden } = useMemo(() => fold(whole, start, folded), [whole, start, folded]);
  const { trail, zoom, width, height, wide, tall, fit, centreOn } = useSized(box, inspection, start);
  const { scale } = zoom;
  const centre = () => {
    centreOn(selected);
  };
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
  // What is chosen stays in sight, also when its sheet takes a part of the room.
  useEffect(() => {
    if (selected)
      box.current?.querySelector(`[data-stop="${selected}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [selected, wide]);
  const current = walk?.current;
  useEffect(() => {
    if (current)
      box.current?.querySelector(`[data-stop="${current}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
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
    if (sized(event, zoom, fit, centre)) return;
    keys(event);
  };
  const flag = (one: Flag, finish: number, pinned = false) =>
    one.fate === FOLDED ? (
      <FoldedFlag
        key={one.key}
        flag={one}
        finish={finish}
        count={hidden.get(one.from) ?? 0}
        open={() => unfold?.(one.from)}
      />
    ) : (
      <TrailFlag
        key={one.key}
        flag={one}
        finish={finish}
        stop={pinned ? undefined : trail.stops.get(one.from)}
        walk={walk}
      />
    );
  return (
    <div className={styles.whole}>
      <div
        ref={box}
        tabIndex={0}
        role="region"
        aria-label="Trail map: the arrow keys walk it"
        className={styles.box}
        style={{ scrollPaddingRight: wide ? ENDINGS * scale : 0 }}
        onKeyDown={press}
        onClick={(event) => {
          if (event.target === event.currentTarget || (event.target as Element).tagName === "svg") select(null);
        }}>
        <div className={styles.sheet} style={{ width, height }}>
          <svg
            data-trail
            width={width}
            height={height}
            viewBox={`0 0 ${trail.width} ${trail.height}`}
            role="group"
            aria-label="Stops">
            <Begin trail={trail} start={start} begins={begins} grey={walk !== null && walk.steps.size === 0} />
            {trail.arms.map((arm) => {
              const from = trail.stops.get(arm.from);
              return (
                from && (
                  <TrailStrands
                    key={arm.key}
                    arm={arm}
                    from={from}
                    walked={walk?.arms.has(arm.key) ?? false}
                    grey={grey}
                  />
                )
              );
            })}
            {trail.flags.map((one) => flag(one, trail.finish))}
            {trail.arms.map((arm) => {
              const from = trail.stops.get(arm.from);
              return (
                from && (
                  <ArmLabel
                    key={arm.key}
                    arm={arm}
                    from={from}
                    target={arm.to === null ? undefined : trail.stops.get(arm.to)}
                    count={counts[arm.key] ?? 0}
                    walked={walk?.arms.has(arm.key) ?? false}
                    grey={grey}
                    goTo={focus}
                  />
                )
              );
            })}
            {[...trail.stops.values()].map((placed) => (
              <TrailStop
                key={placed.stop.id}
                placed={placed}
                arms={armsOf.get(placed.stop.id) ?? NO_ARMS}
                selected={selected === placed.stop.id}
                current={walk?.current === placed.stop.id}
                walkedAt={walk?.steps.get(placed.stop.id) ?? null}
                grey={grey}
                here={here[placed.stop.id] ?? 0}
                finding={findings.get(placed.stop.id) ?? null}
                also={also.has(placed.stop.id)}
                spacing={trail.spacing}
                mark={marks?.get(placed.stop.id)}
                select={choose}
              />
            ))}
          </svg>
          {wide && <PinnedEndings trail={trail} scale={scale} flag={flag} />}
        </div>
      </div>
      <div className={styles.foot}>
        <span>{foot}</span>
        <ZoomBar
          zoom={zoom}
          fit={fit}
          fits={!wide && !tall && scale === 1}
          centre={selected && (wide || tall) ? centre : null}
        />
      </div>
      {small && (wide || tall) && createPortal(<Overview box={box} trail={trail} scale={scale} />, small)}
    </div>
  );
}

/** Where a stop's way ends is always in sight: the endings of a map that is too wide stand at its right. */
function PinnedEndings({
  trail,
  scale,
  flag,
}: {
  trail: Trail;
  scale: number;
  flag: (flag: Flag, finish: number, pinned: boolean) => ReactNode;
}) {
  const width = ENDINGS * scale;
  return (
    <svg
      className={styles.pinned}
      width={width}
      height={trail.height * scale}
      viewBox={`-16 0 ${ENDINGS} ${trail.height}`}
      style={{ marginLeft: -width }}
      aria-hidden="true">
      {trail.flags.map((one) => flag(one, 0, true))}
    </svg>
  );
}

/** Keys that change how large the map is drawn. */
function sized(event: React.KeyboardEvent, zoom: Zoom, fit: () => void, centre: () => void): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey) return false;
  const acts: Record<string, () => void> = {
    "[": zoom.further,
    "]": zoom.closer,
    "0": () => {
      zoom.set(1);
    },
    w: fit,
    ".": centre,
  };
  const act = acts[event.key.toLowerCase()];
  act?.();
  if (act) event.preventDefault();
  return act !== undefined;
}
