import { Button } from "@mui/material";
import { useEffect, useState } from "react";
import { clock } from "../../frame/format";
import { useNow } from "../../frame/useLive";
import { Thread, Writing } from "../flows/phone/Thread";
import styles from "./desk.module.css";
import type { Desk, DeskAgent, DeskContact, Talk } from "./useDesk";

/** That the caller is not on the line yet, and how often they were rung. */
function CallbackChip({ callback, ringing }: { callback: NonNullable<DeskContact["callback"]>; ringing: boolean }) {
  const said = ringing
    ? "Callback: answer, and the caller is rung"
    : `Callback: ringing, attempt ${callback.attempt} of ${callback.attempts}`;
  return <div className="chip">{callback.talking ? "Callback" : said}</div>;
}

const asked: Record<string, string> = {
  consult: "asks you about",
  help: "asks for your help with",
  emergency: "has an emergency with",
};

/** How the talk stands, in words. */
function talkWords(talk: Talk): string {
  if (talk.joined) return `You, the caller and ${talk.consult} speak together`;
  if (talk.consult && !talk.consult_talks)
    return `Ringing ${talk.consult}; the caller hears ${talk.held ? "music" : "you"}`;
  if (talk.consult)
    return talk.held
      ? `You speak with ${talk.consult}; the caller hears music`
      : `You speak with the caller; ${talk.consult} hears music`;
  return talk.held ? "The caller is on hold and hears music" : "";
}

/** Which supervisor is there, and who hears them. */
function attendedWords(talk: Talk): string {
  return talk.attended
    .map((one) =>
      one.how === "coaches" ? `${one.by} is there: only you hear them` : `${one.by} speaks with you and the caller`,
    )
    .join("; ");
}

export interface Deed {
  action: string;
  words: string;
  key?: string;
  /** Stands out: what one most likely wants now. */
  first?: boolean;
}

/** What can be done with a contact, in the order of the desk. */
export function deedsOf(contact: DeskContact): Deed[] {
  const talk = contact.talk;
  const held = Boolean(talk?.consult_talks) && !talk?.joined;
  const all: Deed[] = [
    { action: "put_through", words: "Put through", key: "P", first: held },
    { action: "join", words: "All together", key: "J" },
    { action: "end_consult", words: `End with ${talk?.consult || "them"}`, key: "E" },
    { action: "hold", words: talk?.consult_talks ? `Speak with ${talk.consult}` : "Hold", key: "O" },
    { action: "resume", words: "Speak with the caller", key: "O", first: Boolean(talk?.held) && !talk?.consult },
    { action: "consult", words: "Ask a colleague…", key: "C" },
    { action: "transfer", words: "Transfer…", key: "T" },
    { action: "by_text", words: "Go on in writing…" },
    { action: "help", words: "Call for help", key: "?" },
    { action: "record", words: "Record", key: "R" },
    { action: "stop_recording", words: "Stop recording", key: "R" },
    { action: "emergency", words: "Emergency" },
  ];
  return all.filter((deed) => contact.can.includes(deed.action) && !(talk?.joined && deed.action === "hold"));
}

interface ActionsProps {
  contact: DeskContact;
  ringing: boolean;
  desk: Desk;
  choose: (action: "transfer" | "consult" | "by_text") => void;
}

function Actions({ contact, ringing, desk, choose }: ActionsProps) {
  const text = contact.channel === "text";
  const act = (action: string) => {
    if (action === "transfer" || action === "consult" || action === "by_text") choose(action);
    else desk.act({ action, contact: contact.id });
  };
  if (ringing)
    return (
      <div className={styles.buttons}>
        <Button
          size="medium"
          variant="contained"
          autoFocus
          disabled={desk.busy}
          onClick={() => desk.act({ action: "answer" })}>
          Answer <kbd>A</kbd>
        </Button>
        <Button variant="outlined" disabled={desk.busy} onClick={() => desk.act({ action: "decline" })}>
          Decline
        </Button>
      </div>
    );
  return (
    <div className={styles.buttons}>
      {(contact.can.includes("end") || contact.asked_by || contact.callback) && contact.talk && (
        <Button size="medium" variant="contained" color="secondary" disabled={desk.busy} onClick={() => act("end")}>
          {text ? "End the thread" : contact.talk.joined ? "Leave them to it" : "Hang up"} <kbd>H</kbd>
        </Button>
      )}
      {deedsOf(contact).map(({ action, words, key, first }) => (
        <Button
          key={action}
          variant={first ? "contained" : "outlined"}
          color={action === "emergency" ? "secondary" : "primary"}
          disabled={desk.busy}
          onClick={() => act(action)}>
          {words}
          {key && (
            <>
              {" "}
              <kbd>{key}</kbd>
            </>
          )}
        </Button>
      ))}
    </div>
  );
}

const KEYS = "123456789*0#";

/** Keys that the other end hears: those on the screen, and while it is open those that are typed. */
function Keypad({ press, sent }: { press: (key: string) => void; sent: string }) {
  useEffect(() => {
    const typed = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        !KEYS.includes(event.key) ||
        target.closest("input,textarea")
      )
        return;
      // No key of the desk's own besides.
      event.stopImmediatePropagation();
      press(event.key);
    };
    window.addEventListener("keydown", typed, true);
    return () => {
      window.removeEventListener("keydown", typed, true);
    };
  });
  return (
    <div className={styles.keypad} role="group" aria-label="Keypad">
      {[...KEYS].map((key) => (
        <button key={key} type="button" className={styles.key} onClick={() => press(key)}>
          {key}
        </button>
      ))}
      <span className={`dim ${styles.hint}`} aria-live="polite">
        {sent ? `Sent: ${sent}` : "They hear what you press or type."}
      </span>
    </div>
  );
}

/** What is known of the caller: values gathered on the way, and the way itself. */
function Gathered({ contact }: { contact: DeskContact }) {
  const values = Object.entries(contact.values);
  return (
    <>
      {values.length > 0 && (
        <>
          <h2>From the call</h2>
          <dl className={styles.facts}>
            {values.map(([name, value]) => [
              <dt key={name}>{name.replaceAll("_", " ")}</dt>,
              <dd key={`${name} value`}>{String(value)}</dd>,
            ])}
          </dl>
        </>
      )}
      <h2>The way here</h2>
      <ol className={styles.path}>
        {contact.path.map((stop, i) => (
          <li key={i}>
            <b>{stop.title}</b> {stop.sentence} {stop.words && <span className="dim">({stop.words})</span>}
          </li>
        ))}
      </ol>
    </>
  );
}

/** Who calls, or asks. */
function Who({ contact, ringing }: { contact: DeskContact; ringing: boolean }) {
  return (
    <>
      {contact.callback && <CallbackChip callback={contact.callback} ringing={ringing} />}
      {contact.asked_by && (
        <div className="chip">
          <span>
            <b>{contact.asked_by}</b> {asked[contact.purpose] ?? "asks you about"}
          </span>
        </div>
      )}
      <div className={styles.state}>
        {contact.noted && <span className="chip">{contact.noted}</span>} {contact.caller}
        {contact.talk?.recording && <span className="chip warns">being recorded</span>}
        {contact.talk?.notice && <span className="chip warns">being told of the recording</span>}
      </div>
    </>
  );
}

/** What was called, how long ago, and what the queue wants read. */
function Facts({ contact, ringing }: { contact: DeskContact; ringing: boolean }) {
  const now = useNow(500);
  const since = clock(now - contact.entered_ms);
  return (
    <>
      <dl className={styles.facts}>
        <dt>{contact.channel === "text" ? "Wrote to" : "Called"}</dt>
        <dd>
          {contact.label || "a trial call"} <span className="dim">{contact.number}</span>
        </dd>
        {contact.queue && (
          <>
            <dt>Queue</dt>
            <dd>{contact.queue}</dd>
          </>
        )}
        {contact.entered_ms > 0 && (
          <>
            <dt>{ringing ? "Has waited" : "Came into the queue"}</dt>
            <dd>{ringing ? since : `${since} ago`}</dd>
          </>
        )}
      </dl>
      {(contact.note || contact.link) && (
        <div className={styles.note}>
          {contact.note}
          {contact.link && (
            <div>
              <a href={contact.link} target="_blank" rel="noreferrer">
                Open what belongs to this call
              </a>
            </div>
          )}
        </div>
      )}
    </>
  );
}

/** Something that one key does, wherever nothing is typed. */
function useKey(key: string, deed: () => void) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        event.key.toLowerCase() === key &&
        !event.ctrlKey &&
        !event.metaKey &&
        !event.altKey &&
        !target.closest("input,textarea")
      )
        deed();
    };
    window.addEventListener("keydown", press);
    return () => {
      window.removeEventListener("keydown", press);
    };
  });
}

interface Props {
  agent: DeskAgent;
  contact: DeskContact | null;
  desk: Desk;
  choose: ActionsProps["choose"];
}

/** The contact that is looked at: who it is, what can be done, what was written or said before. */
export function ContactPanel({ agent, contact, desk, choose }: Props) {
  const [keypad, setKeypad] = useState(false);
  const [sent, setSent] = useState("");
  useKey("k", () => {
    setKeypad((open) => !open);
  });
  if (!contact)
    return (
      <section className={`${styles.panel} ${styles.contact}`} aria-label="Contact">
        <div className="dim">{agent.status === "available" ? "The next contact will ring here." : "No contact."}</div>
      </section>
    );
  const ringing = agent.status === "ringing" && contact.id === agent.contact;
  const text = contact.channel === "text";
  const said = contact.talk ? [talkWords(contact.talk), attendedWords(contact.talk)].filter(Boolean).join(". ") : "";
  const talks = contact.talk !== null && !text && !ringing;
  const press = (key: string) => {
    setSent((before) => (before + key).slice(-20));
    desk.act({ action: "key", key, contact: contact.id });
  };
  return (
    <section className={`${styles.panel} ${styles.contact} ${ringing ? styles.ringing : ""}`} aria-label="Contact">
      <Who contact={contact} ringing={ringing} />
      {contact.alarm && (
        <div role="status" className={styles.note}>
          {contact.alarm.taken_by
            ? `${contact.alarm.taken_by} looks after your emergency.`
            : "Your emergency is on the floor; nobody has taken it yet."}
        </div>
      )}
      {said && (
        <div role="status" className={styles.note}>
          {said}
        </div>
      )}
      <Actions contact={contact} ringing={ringing} desk={desk} choose={choose} />
      <Facts contact={contact} ringing={ringing} />
      {text && <Thread thread={contact.thread} mine={["agent"]} />}
      {text && contact.talk && (
        <Writing
          label="Your message"
          disabled={desk.busy}
          send={(words) => desk.act({ action: "text", text: words, contact: contact.id })}
        />
      )}
      {talks && (
        <div>
          <Button onClick={() => setKeypad(!keypad)}>
            {keypad ? "Close the keypad" : "Keypad"} <kbd>K</kbd>
          </Button>
        </div>
      )}
      {talks && keypad && <Keypad press={press} sent={sent} />}
      <Gathered contact={contact} />
    </section>
  );
}
