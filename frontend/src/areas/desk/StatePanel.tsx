import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { clock, timeOfDay } from "../../frame/format";
import { useSession } from "../../frame/session";
import { agentStates, Glyph } from "../../frame/states";
import { useNow } from "../../frame/useLive";
import styles from "./desk.module.css";
import { MyDay } from "./MyDay";
import type { Desk, DeskAgent, DeskContact } from "./useDesk";

/** The contacts that an agent has at once, where there are several: one is looked at. */
function InHand({
  contacts,
  shown,
  look,
  now,
}: {
  contacts: DeskContact[];
  shown: string;
  look: (id: string) => void;
  now: number;
}) {
  if (contacts.length < 2) return null;
  return (
    <div className={styles.codes} role="radiogroup" aria-label="Contacts in hand">
      {contacts.map((contact, at) => (
        <button
          key={contact.id}
          type="button"
          role="radio"
          aria-checked={contact.id === shown}
          className={styles.code}
          onClick={() => look(contact.id)}>
          <span className="dim">{at + 1}</span>
          <span>
            {contact.caller}
            <br />
            <span className="dim light">
              {contact.channel === "text" ? (contact.unanswered ? "wants a reply" : "text") : "call"}
              {contact.reply_due_ms ? `, ${clock(contact.reply_due_ms - now)} left` : ""}
            </span>
          </span>
        </button>
      ))}
    </div>
  );
}

const results: Record<string, string> = {
  busy: "busy",
  no_answer: "no answer",
  failed: "the number cannot be reached",
  given_up: "you stopped ringing",
};
/** What was not reached is said this long, or until something else is in hand. */
const SAID_MS = 120_000;

/** That the caller of a callback was not reached, and what comes of it. */
function Unreached({ agent, now }: { agent: DeskAgent; now: number }) {
  const zone = useSession().session.time_zone;
  const tried = agent.unreached;
  if (!tried || agent.contact || now - tried.at_ms > SAID_MS) return null;
  const then = tried.next_ms
    ? `They are rung again at ${timeOfDay(tried.next_ms, zone)}, attempt ${tried.attempt + 1} of ${tried.attempts}.`
    : "That was the last attempt.";
  return (
    <div className={styles.note}>
      {tried.number} was not reached: {results[tried.result] ?? tried.result}. {then}
    </div>
  );
}

const steering: Record<string, string> = {
  available: "made you available",
  away: "set you away",
  sign_out: "ends your work",
};

/** What a supervisor had this agent do, and who it was. */
function Steered({ agent }: { agent: DeskAgent }) {
  const zone = useSession().session.time_zone;
  const told = agent.steered;
  if (!told) return null;
  return (
    <div className={styles.note} role="status">
      {told.by} {steering[told.act]}
      {told.reason && `: ${told.reason}`}, at {timeOfDay(told.at_ms, zone).slice(0, 5)}
      {agent.next ? "; it counts after this contact" : ""}.
    </div>
  );
}

const lines: Record<string, string | undefined> = {
  browser: "",
  dialled: "Your outside telephone is rung for each contact",
  open: "Your outside line",
};

interface Props {
  agent: DeskAgent;
  desk: Desk;
  shown: string;
  look: (id: string) => void;
}

/** What the agent does now, since when, and what they can do next. */
export function StatePanel({ agent, desk, shown, look }: Props) {
  const now = useNow(500);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [ending, setEnding] = useState<HTMLElement | null>(null);
  const state = agentStates[agent.status] ?? { word: agent.status, glyph: "dashed" as const, colour: "var(--slate)" };
  const away = (reason: string) => {
    setAnchor(null);
    desk.act({ action: "away", reason });
  };
  const out = agent.status === "out";
  const busy = agent.status === "on_contact" || desk.contacts.length > 1;
  const canFree = agent.status === "away" || (agent.status === "on_contact" && agent.next !== null);
  return (
    <section className={styles.panel} aria-label="My state">
      <div className={styles.state} role="status">
        <Glyph name={state.glyph} colour={state.colour} /> {state.word}
        {agent.reason && <span className={`dim ${styles.reason}`}>{agent.reason}</span>}
      </div>
      {!out && <div className={styles.timer}>{clock(now - agent.since_ms)}</div>}
      <Unreached agent={agent} now={now} />
      <Steered agent={agent} />
      {agent.next && (
        <div className="chip">
          {agent.next[0] === "out" ? "afterwards: signed out" : `afterwards: away, ${agent.next[1]}`}
        </div>
      )}
      <div className={styles.buttons}>
        {out && (
          <Button variant="contained" onClick={() => desk.act({ action: "sign_in" })}>
            Start work
          </Button>
        )}
        {canFree && (
          <Button variant="contained" onClick={() => desk.act({ action: "available" })}>
            Become available <kbd>V</kbd>
          </Button>
        )}
        {!out && agent.status !== "away" && (
          <Button variant="outlined" onClick={(event) => setAnchor(event.currentTarget)}>
            Take a break…
          </Button>
        )}
        {!out && !busy && (
          <Button
            onClick={(event) => {
              if (agent.sign_out_reasons.length > 0) setEnding(event.currentTarget);
              else desk.act({ action: "sign_out" });
            }}>
            {agent.sign_out_reasons.length > 0 ? "End work…" : "End work"}
          </Button>
        )}
      </div>
      <Menu open={ending !== null} anchorEl={ending} onClose={() => setEnding(null)}>
        {agent.sign_out_reasons.map((reason) => (
          <MenuItem
            key={reason}
            onClick={() => {
              setEnding(null);
              desk.act({ action: "sign_out", reason });
            }}>
            {reason}
          </MenuItem>
        ))}
      </Menu>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {agent.away_reasons.map((reason) => (
          <MenuItem key={reason} onClick={() => away(reason)}>
            {reason}
          </MenuItem>
        ))}
      </Menu>
      <InHand contacts={desk.contacts} shown={shown} look={look} now={now} />
      <div className="dim">
        Extension {agent.extension}
        {agent.line !== "browser" && (
          <>
            <br />
            {lines[agent.line]}
            {agent.line === "open" ? (agent.line_open ? " is open" : " is not open") : ""}
          </>
        )}
        <br />
        {agent.queues.length ? <>Serves {agent.queues.join(", ")}</> : "Not a member of any queue yet"}
      </div>
      <MyDay />
    </section>
  );
}
