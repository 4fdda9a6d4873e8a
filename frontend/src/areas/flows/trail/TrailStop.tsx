import { memo } from "react";
import { type PlacedArm, type PlacedStop, type Spacing, textWidth } from "./layout";
import { StopGlyph } from "./glyphs";

/** Stops at which the way forks by itself are diamonds. */
const DECISIONS = ["hours", "times", "fork", "check_queue", "lookup", "repeat", "fax"];

interface Props {
  placed: PlacedStop;
  arms: PlacedArm[];
  selected: boolean;
  current: boolean;
  walkedAt: string | null;
  grey: boolean;
  here: number;
  finding: "blocks" | "warns" | "hints" | null;
  /** Chosen together with others. */
  also: boolean;
  spacing: Spacing;
  /** What a comparison says of it. */
  mark: Mark | undefined;
  /** `more`: besides what is chosen; `focus`: the keyboard came here. */
  select: (id: string, how: "one" | "more" | "focus") => void;
}

export type Mark = "added" | "removed" | "changed";

const marks: Record<Mark, { word: string; colour: string }> = {
  added: { word: "new", colour: "var(--fern-ink)" },
  removed: { word: "gone", colour: "var(--plum-ink)" },
  changed: { word: "changed", colour: "var(--ochre-ink)" },
};

/** A word over a stop, in a pill. */
function Marked({ mark, top }: { mark: Mark; top: number }) {
  const { word, colour } = marks[mark];
  const width = word.length * 6.4 + 14;
  return (
    <g transform={`translate(0,${top - 16})`}>
      <rect
        x={-width / 2}
        y="-8"
        width={width}
        height="16"
        rx="8"
        fill="var(--sheet)"
        stroke={colour}
        strokeWidth="1.4"
      />
      <text textAnchor="middle" y="4" fontSize="11" fontWeight="640" fill={colour}>
        {word}
      </text>
    </g>
  );
}

/** Characters a line: about 100 px, and 74 where arms run down beside the label. */
const WIDE = 19;
const NARROW = 13;

/** A text in at most so many lines. */
function lines(text: string, width: number, most = 2): string[] {
  const found: string[] = [""];
  for (const word of text.split(" ")) {
    const last = found[found.length - 1] ?? "";
    if ((last + word).length > width && last) found.push(word);
    else found[found.length - 1] = last ? `${last} ${word}` : word;
  }
  return found.length > most ? [...found.slice(0, most - 1), `${(found[most - 1] ?? "").slice(0, width - 1)}…`] : found;
}

/** A stop's words can be pressed as it can. */
const REACH = 44;

function Label({
  placed,
  y,
  grey,
  narrow,
  spacing,
}: {
  placed: PlacedStop;
  y: number;
  grey: boolean;
  narrow: boolean;
  spacing: Spacing;
}) {
  const { stop } = placed;
  const longest = Math.floor(spacing.title / textWidth("m", 11)) + 1;
  const title = narrow
    ? lines(stop.title, NARROW, spacing.lines)
    : [stop.title.length > longest ? `${stop.title.slice(0, longest - 1)}…` : stop.title];
  const sentence = lines(
    stop.sentence,
    narrow ? NARROW : spacing.lines > 1 ? WIDE : Math.floor(spacing.sentence / textWidth("m", 11)),
    spacing.lines,
  );
  return (
    <>
      <rect
        x={-REACH}
        y={y - 18}
        width={2 * REACH}
        height={13 * (title.length + sentence.length) + 10}
        fill="transparent"
      />
      <text
        textAnchor="middle"
        fontSize="11"
        stroke="var(--mist)"
        strokeWidth="3"
        paintOrder="stroke"
        fill={grey ? "var(--slate)" : "var(--ink)"}>
        {title.map((text, i) => (
          <tspan key={i} x="0" y={y + 13 * i} fontWeight="640">
            {text}
          </tspan>
        ))}
        {sentence.map((text, i) => (
          <tspan key={`s${i}`} x="0" y={y + 13 * (title.length + i)} fill={grey ? "var(--slate)" : "var(--slate-ink)"}>
            {text}
          </tspan>
        ))}
      </text>
    </>
  );
}

function Post({ placed, arms, ink }: { placed: PlacedStop; arms: PlacedArm[]; ink: string }) {
  const top = placed.top - placed.y - 24;
  const height = placed.bottom - placed.top + 48;
  return (
    <>
      <rect x="-13" y={top} width="26" height={height} rx="13" fill="var(--sheet)" stroke={ink} strokeWidth="2" />
      {arms.map((arm) => (
        <g key={arm.key} transform={`translate(0,${arm.y - placed.y})`}>
          {arm.exit === "no_key" ? (
            <StopGlyph kind="clock" colour={ink} />
          ) : (
            <>
              <rect x="-9" y="-9" width="18" height="18" rx="4" fill="var(--sheet)" stroke={ink} strokeWidth="1.3" />
              <text textAnchor="middle" y="4" fontSize="11.5" fontWeight="660" fill={ink}>
                {arm.exit === "wrong_key" ? "≠" : arm.exit.slice(4)}
              </text>
            </>
          )}
        </g>
      ))}
    </>
  );
}

function Finding({ kind }: { kind: "blocks" | "warns" | "hints" }) {
  const colour = { blocks: "var(--plum)", warns: "var(--ochre)", hints: "var(--slate)" }[kind];
  return (
    <g transform="translate(-15,-18)">
      <rect x="-10" y="-7" width="20" height="14" rx="7" fill="var(--sheet)" stroke="var(--line)" />
      {kind === "blocks" ? (
        <path d="M-5 4 0 -4 5 4z" fill={colour} />
      ) : (
        <path d="M-6 3c3 0 4-6 12-6" fill="none" stroke={colour} strokeWidth="1.8" />
      )}
    </g>
  );
}

/** What says that a stop is chosen, or that a call is there. */
function Rings({
  selected,
  current,
  also,
  top,
  height,
}: {
  selected: boolean;
  current: boolean;
  also: boolean;
  top: number;
  height: number;
}) {
  if (!selected && !current && !also) return null;
  return (
    <rect
      x="-17"
      y={top - 4}
      width="34"
      height={height + 8}
      rx="17"
      fill="none"
      stroke="var(--clay)"
      strokeWidth={current ? 3 : 2}
      strokeDasharray={selected || current ? undefined : "4 3"}
    />
  );
}

/** How many callers are there. */
function Here({ count, top }: { count: number; top: number }) {
  if (count === 0) return null;
  return (
    <g transform={`translate(13,${top})`}>
      <circle r="8" fill="var(--clay)" />
      <text textAnchor="middle" y="4" fontSize="11" fontWeight="640" fill="#fff">
        {count}
      </text>
    </g>
  );
}

/** One stop: a disc, or a menu's post; a button for mouse, keyboard and screen reader. */
export const TrailStop = memo(function TrailStop({
  placed,
  arms,
  selected,
  current,
  walkedAt,
  grey,
  here,
  finding,
  also,
  spacing,
  mark,
  select,
}: Props) {
  const { stop } = placed;
  const menu = stop.kind === "menu";
  const ink = grey && walkedAt === null ? "var(--edge)" : "var(--pine)";
  const top = menu ? placed.top - placed.y - 24 : -13;
  const bottom = menu ? placed.bottom - placed.y + 24 : 13;
  const exits = arms.map((arm) => `${arm.label}${arm.kind === "open" ? ", leads nowhere" : ""}`).join("; ");
  return (
    <g
      transform={`translate(${placed.x},${placed.y})`}
      role="button"
      tabIndex={0}
      data-stop={stop.id}
      aria-pressed={selected || also}
      aria-label={`${stop.title}. ${stop.sentence.replace(/[.…]$/, "")}.${exits ? ` Ways out: ${exits}.` : ""}${finding ? " Has findings." : ""}`}
      onMouseDown={(event) => {
        if (event.shiftKey) event.preventDefault();
      }}
      onClick={(event) => select(stop.id, event.shiftKey ? "more" : "one")}
      onFocus={() => select(stop.id, "focus")}
      style={{ cursor: "pointer", outline: "none" }}>
      <title>{`${stop.title}: ${stop.sentence}`}</title>
      {mark && <Marked mark={mark} top={top} />}
      <Rings selected={selected} current={current} also={also} top={top} height={bottom - top} />
      {menu ? (
        <Post placed={placed} arms={arms} ink={ink} />
      ) : (
        <>
          {DECISIONS.includes(stop.kind) ? (
            <path d="M0 -16 16 0 0 16 -16 0z" fill="var(--sheet)" stroke={ink} strokeWidth="2" strokeLinejoin="round" />
          ) : (
            <circle
              r="13"
              fill="var(--sheet)"
              stroke={ink}
              strokeWidth="2"
              strokeDasharray={placed.reached ? undefined : "3 3"}
            />
          )}
          <StopGlyph kind={stop.kind} colour={ink} />
        </>
      )}
      <Label
        placed={placed}
        y={bottom + 14}
        grey={grey && walkedAt === null}
        narrow={!menu && arms.some((arm) => arm.y > placed.y + 4)}
        spacing={spacing}
      />
      {walkedAt !== null && (
        <text textAnchor="middle" y={top - 8} fontSize="11.5" fontWeight="640" fill="var(--clay-ink)">
          {walkedAt}
        </text>
      )}
      {finding && (
        <g transform={menu ? `translate(0,${top + 13})` : undefined}>
          <Finding kind={finding} />
        </g>
      )}
      <Here count={here} top={top} />
    </g>
  );
});
