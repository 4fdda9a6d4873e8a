import { clock } from "../../frame/format";
import { isLate } from "../../frame/late";

interface Wait {
  entered_ms: number;
  late_from_ms: number;
}

/** One who waits: who it is, where that is known. */
interface Waiting extends Wait {
  contact: string;
  caller?: string;
  ringing?: string;
}

/** The end of the ribbon's axis, in seconds. */
export const AXIS_S = 300;

const percentOf = (seconds: number) => `${2 + Math.min(1, seconds / AXIS_S) * 96}%`;

/** Those who wait, where it is not told who they are. */
export const nameless = (waits: Wait[]): Waiting[] =>
  waits.map((wait, at) => ({ ...wait, contact: `${wait.entered_ms}-${at}` }));

/** A time axis on which every waiting contact moves to the right; past the post it changes its shape. */
export function WaitRibbon({
  beads,
  threshold,
  now,
  name,
}: {
  beads: Waiting[];
  threshold: number;
  now: number;
  name: string;
}) {
  const waits = beads.map((bead) => ({ ...bead, seconds: Math.max(0, (now - bead.entered_ms) / 1000) }));
  const words = waits.map(
    (w) => `${w.caller ? `${w.caller}, ` : ""}${clock(w.seconds * 1000)}${w.ringing ? `, ringing ${w.ringing}` : ""}`,
  );
  return (
    <svg
      width="100%"
      height="28"
      role="img"
      aria-label={`${name}: ${words.length ? words.join("; ") : "nobody waits"}`}
      style={{ overflow: "visible", display: "block" }}>
      <line x1="2%" x2="98%" y1="23" y2="23" stroke="var(--edge)" />
      {[60, 120, 180, 240].map((s) => (
        <line key={s} x1={percentOf(s)} x2={percentOf(s)} y1="20" y2="23" stroke="var(--edge)" />
      ))}
      <line x1={percentOf(threshold)} x2={percentOf(threshold)} y1="3" y2="24" stroke="var(--pine)" strokeWidth="2" />
      {waits.map((wait, i) => (
        <svg key={wait.contact} x={percentOf(wait.seconds)} y="15" style={{ overflow: "visible" }}>
          <title>{words[i]}</title>
          {wait.ringing && <circle r="8.5" fill="none" stroke="var(--clay)" strokeWidth="1.5" />}
          {isLate(wait, now) ? (
            <path d="M-6.5 5 L0 -6 L6.5 5z" fill="var(--plum)" />
          ) : (
            <circle r="5" fill="var(--sheet)" stroke="var(--pine)" strokeWidth="2" />
          )}
        </svg>
      ))}
    </svg>
  );
}
