import { clock } from "../../frame/format";
import type { Bead } from "./types";

/** The end of the ribbon's axis, in seconds. */
export const AXIS_S = 300;

/** A time axis on which every waiting contact moves to the right; past the post it changes its shape. */
export function WaitRibbon({ beads, threshold, now, name }: { beads: Bead[]; threshold: number; now: number; name: string }) {
  const at = (seconds: number) => Math.min(1, seconds / AXIS_S) * 384 + 8;
  const waits = beads.map((bead) => ({ ...bead, seconds: Math.max(0, (now - bead.entered_ms) / 1000) }));
  const words = waits.map((w) => `${w.caller}, ${clock(w.seconds * 1000)}${w.ringing ? `, ringing ${w.ringing}` : ""}`);
  return (
    <svg viewBox="0 0 400 28" width="100%" height="28" preserveAspectRatio="none" role="img"
      aria-label={`${name}: ${words.length ? words.join("; ") : "nobody waits"}`} style={{ overflow: "visible" }}>
      <line x1="8" x2="392" y1="23" y2="23" stroke="var(--edge)" />
      {[60, 120, 180, 240].map((s) => <line key={s} x1={at(s)} x2={at(s)} y1="20" y2="23" stroke="var(--edge)" />)}
      <line x1={at(threshold)} x2={at(threshold)} y1="3" y2="24" stroke="var(--pine)" strokeWidth="2" />
      {waits.map((wait) => {
        const x = at(wait.seconds);
        const late = wait.seconds > threshold;
        return (
          <g key={wait.contact}>
            <title>{`${wait.caller} waits ${clock(wait.seconds * 1000)}${wait.ringing ? `, ringing ${wait.ringing}` : ""}`}</title>
            {wait.ringing && <circle cx={x} cy="15" r="8.5" fill="none" stroke="var(--clay)" strokeWidth="1.5" />}
            {late ? (
              <path d={`M${x - 6.5} 20 L${x} 9 L${x + 6.5} 20z`} fill="var(--plum)" />
            ) : (
              <circle cx={x} cy="15" r="5" fill="var(--sheet)" stroke="var(--pine)" strokeWidth="2" />
            )}
          </g>
        );
      })}
    </svg>
  );
}
