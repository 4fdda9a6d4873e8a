import { Button, CircularProgress } from "@mui/material";
import type { ReactNode } from "react";
import { Link } from "react-router-dom";
import { Problem, words } from "../api/client";
import styles from "./frame.module.css";

/** Something is on its way. */
export function Loading({ what }: { what: string }) {
  return (
    <div role="status" className={`dim ${styles.waiting}`}>
      <CircularProgress size={16} aria-hidden /> Loading {what}…
    </div>
  );
}

interface FailureProps {
  error: unknown;
  retry?: () => void;
  /** What it was of, where it may be gone: its word, and the list of those that are there. */
  of?: { noun: string; list: string };
}

/** Something could not be had; nothing is lost by trying again. */
export function Failure({ error, retry, of }: FailureProps) {
  if (of && error instanceof Problem && error.status === 404)
    return (
      <Empty title={`There is no such ${of.noun}, or not any more`}>
        <Link to={of.list}>Those that are there</Link> · who deleted one is told by the{" "}
        <Link to="/settings/changes">change log</Link>
      </Empty>
    );
  return (
    <div role="alert" className={styles.failed}>
      <Glyph name="peak" colour="var(--plum)" />
      <span>{words(error)}</span>
      {retry && <Button onClick={retry}>Try again</Button>}
    </div>
  );
}

/** Nothing is here yet; says what to do next. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className={styles.nothing}>
      <h2 className={styles.nothingTitle}>{title}</h2>
      <div className="dim">{children}</div>
    </div>
  );
}

const shapes = {
  flat: "M1 11h16",
  rise: "M1 12h4l6-8h6",
  ridge: "M1 13 6 7l3 3 4-7 4 10",
  fall: "M1 4h6l5 8h5",
  dashed: "M1 9h16",
  peak: "M2 14 9 3l7 11z",
};

/** The small own signs of state, made of the ridge: never colour alone, a word stands beside them. */
export function Glyph({ name, colour }: { name: keyof typeof shapes; colour: string }) {
  return (
    <svg width="18" height="16" viewBox="0 0 18 16" aria-hidden="true" className="rigid">
      <path
        d={shapes[name]}
        fill={name === "peak" ? colour : "none"}
        stroke={colour}
        strokeWidth="1.8"
        strokeLinejoin="round"
        strokeLinecap="round"
        strokeDasharray={name === "dashed" ? "3 3" : undefined}
      />
    </svg>
  );
}

export const agentStates: Record<string, { word: string; glyph: keyof typeof shapes; colour: string }> = {
  out: { word: "Signed out", glyph: "dashed", colour: "var(--slate)" },
  available: { word: "Available", glyph: "flat", colour: "var(--fern)" },
  ringing: { word: "Ringing", glyph: "rise", colour: "var(--clay)" },
  on_contact: { word: "On contact", glyph: "ridge", colour: "var(--pine)" },
  wrapping: { word: "Wrapping up", glyph: "fall", colour: "var(--ochre)" },
  away: { word: "Away", glyph: "dashed", colour: "var(--slate)" },
};
