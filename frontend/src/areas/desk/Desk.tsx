import { Button, Menu, MenuItem } from "@mui/material";
import { useEffect, useState } from "react";
import { clock } from "../../frame/format";
import { useSession } from "../../frame/session";
import { agentStates, Empty, Glyph, Loading } from "../../frame/states";
import { useNow, usePulse } from "../../frame/useLive";
import styles from "./desk.module.css";
import { Thread, Writing } from "../flows/phone/Thread";
import { Messages } from "../mailboxes/Messages";
import { ringTone } from "./tones";
import { type Code, type DeskAgent, type DeskContact, useDesk } from "./useDesk";

type Desk = ReturnType<typeof useDesk>;

function StatePanel({ agent, desk }: { agent: DeskAgent; desk: Desk }) {
  const now = useNow(500);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const state = agentStates[agent.status] ?? { word: agent.status, glyph: "dashed" as const, colour: "var(--slate)" };
  const away = (reason: string) => { setAnchor(null); desk.act({ action: "away", reason }); };
  const out = agent.status === "out";
  const canFree = agent.status === "away" || (agent.status === "on_contact" && agent.next !== null);
  return (
    <section className={styles.panel} aria-label="My state">
      <div className={styles.state} role="status">
        <Glyph name={state.glyph} colour={state.colour} /> {state.word}
        {agent.reason && <span className="dim" style={{ fontSize: 14, fontWeight: 400 }}>{agent.reason}</span>}
      </div>
      {!out && <div className={styles.timer}>{clock(now - agent.since_ms)}</div>}
      {agent.next && <div className="chip">afterwards: away, {agent.next[1]}</div>}
      <div className={styles.buttons}>
        {out && <Button variant="contained" onClick={() => { desk.act({ action: "sign_in" }); }}>Start work</Button>}
        {canFree && <Button variant="contained" onClick={() => { desk.act({ action: "available" }); }}>Become available <kbd>V</kbd></Button>}
        {!out && agent.status !== "away" && <Button variant="outlined" onClick={(event) => { setAnchor(event.currentTarget); }}>Go away…</Button>}
        {!out && agent.status !== "on_contact" && <Button onClick={() => { desk.act({ action: "sign_out" }); }}>End work</Button>}
      </div>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => { setAnchor(null); }}>
        {agent.away_reasons.map((reason) => <MenuItem key={reason} onClick={() => { away(reason); }}>{reason}</MenuItem>)}
      </Menu>
      <div className="dim">
        Extension {agent.extension}
        <br />
        {agent.queues.length ? <>Serves {agent.queues.join(", ")}</> : "Not a member of any queue yet"}
      </div>
    </section>
  );
}

/** That the caller is not on the line yet, and how often they were rung. */
function CallbackChip({ callback, ringing }: { callback: NonNullable<DeskContact["callback"]>; ringing: boolean }) {
  const said = ringing ? "Callback: answer, and the caller is rung" : `Callback: ringing, attempt ${callback.attempt} of ${callback.attempts}`;
  return <div className="chip">{callback.talking ? "Callback" : said}</div>;
}

function ContactPanel({ agent, contact, desk }: { agent: DeskAgent; contact: DeskContact | null; desk: Desk }) {
  const now = useNow(500);
  const ringing = agent.status === "ringing";
  if (!contact)
    return (
      <section className={`${styles.panel} ${styles.contact}`} aria-label="Contact">
        <div className="dim">{agent.status === "available" ? "The next contact will ring here." : "No contact."}</div>
      </section>
    );
  const text = contact.channel === "text";
  return (
    <section className={`${styles.panel} ${styles.contact} ${ringing ? styles.ringing : ""}`} aria-label="Contact">
      {contact.callback && <CallbackChip callback={contact.callback} ringing={ringing} />}
      <div className={styles.state}>{contact.noted && <span className="chip">{contact.noted}</span>} {contact.caller}</div>
      <dl className={styles.facts}>
        <dt>{text ? "Wrote to" : "Called"}</dt><dd>{contact.label || "a trial call"} <span className="dim">{contact.number}</span></dd>
        <dt>Queue</dt><dd>{contact.queue}</dd>
        <dt>{ringing ? "Has waited" : "Came into the queue"}</dt>
        <dd>{ringing ? clock(now - contact.entered_ms) : `${clock(agent.since_ms - contact.entered_ms)} before`}</dd>
      </dl>
      {contact.note && <div className={styles.note}>{contact.note}</div>}
      <div className={styles.buttons}>
        {ringing && <Button size="medium" variant="contained" autoFocus disabled={desk.busy} onClick={() => { desk.act({ action: "answer" }); }}>Answer <kbd>A</kbd></Button>}
        {ringing && <Button variant="outlined" disabled={desk.busy} onClick={() => { desk.act({ action: "decline" }); }}>Pass on</Button>}
        {agent.status === "on_contact" && <Button size="medium" variant="contained" color="secondary" disabled={desk.busy} onClick={() => { desk.act({ action: "end" }); }}>{text ? "End the thread" : "Hang up"} <kbd>H</kbd></Button>}
      </div>
      {text && <Thread thread={contact.thread} mine={["agent"]} />}
      {text && agent.status === "on_contact" && <Writing label="Your message" disabled={desk.busy} send={(words) => { desk.act({ action: "text", text: words }); }} />}
      <h2>The way here</h2>
      <ol className={styles.path}>
        {contact.path.map((stop, i) => <li key={i}><b>{stop.title}</b> {stop.sentence} <span className="dim">({stop.words})</span></li>)}
      </ol>
    </section>
  );
}

/** Digits typed anywhere choose the code that has them, as on a desk phone; Enter is done. */
function useTypedDigits(codes: Code[], choose: (id: string | null) => void, done: () => void): string {
  const [digits, setDigits] = useState("");
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "Enter" && !(event.target as HTMLElement).closest("button")) done();
      if (event.key === "Backspace") setDigits("");
      if (!/^[0-9]$/.test(event.key)) return;
      const exact = (text: string) => codes.find((code) => code.digits === text);
      const begun = codes.some((code) => code.digits.startsWith(digits + event.key));
      const next = begun ? digits + event.key : event.key;
      setDigits(next);
      choose(exact(next)?.id ?? null);
    };
    window.addEventListener("keydown", press);
    return () => { window.removeEventListener("keydown", press); };
  });
  return digits;
}

function WrapUpPanel({ agent, codes, desk }: { agent: DeskAgent; codes: Code[]; desk: Desk }) {
  const now = useNow(500);
  const [chosen, setChosen] = useState<string | null>(null);
  const left = agent.due_ms === null ? 0 : agent.due_ms - now;
  const required = agent.wrap_up === "required";
  const done = () => { if (chosen || !required) desk.act({ action: "wrap_up", code: chosen }); };
  const typed = useTypedDigits(codes, setChosen, done);
  return (
    <section className={styles.panel} aria-label="Wrap-up">
      <h2>What was it about?</h2>
      <div className={styles.codes} role="radiogroup" aria-label="Wrap-up codes">
        {codes.length === 0 && <span className="dim">This queue has no wrap-up codes.</span>}
        {codes.map((code) => (
          <button key={code.id} type="button" role="radio" aria-checked={chosen === code.id} className={styles.code} onClick={() => { setChosen(code.id); }}>
            <span className="dim">{code.digits}</span> {code.name}
          </button>
        ))}
      </div>
      <Button variant="contained" disabled={desk.busy || (required && !chosen)} onClick={done}>
        {chosen ? "Done" : required ? "Choose a code" : "Done without a code"}
      </Button>
      <div className="dim">{typed ? `Digits: ${typed}` : "Type a code’s digits, then Enter."}</div>
      <div className="dim">Ends by itself in {clock(left)}, then with “no code” if none was saved.</div>
    </section>
  );
}

/** Keys of the desk: A answers, H hangs up, V becomes available. */
function useDeskKeys(agent: DeskAgent | undefined, act: Desk["act"]) {
  const status = agent?.status;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input,textarea")) return;
      const key = event.key.toLowerCase();
      if (key === "a" && status === "ringing") act({ action: "answer" });
      if (key === "h" && status === "on_contact") act({ action: "end" });
      if (key === "v" && status === "away") act({ action: "available" });
    };
    window.addEventListener("keydown", press);
    return () => { window.removeEventListener("keydown", press); };
  }, [status, act]);
}

function DeskOf({ agentId }: { agentId: string }) {
  const desk = useDesk(agentId);
  const pulse = usePulse();
  const { agent, contact, codes } = desk;
  useDeskKeys(agent, desk.act);
  const ringing = agent?.status === "ringing";
  useEffect(() => {
    if (!ringing) return undefined;
    ringTone();
    const timer = window.setInterval(ringTone, 2500);
    return () => { window.clearInterval(timer); };
  }, [ringing]);
  if (desk.refused) return <Empty title={desk.refused} />;
  if (!agent) {
    if (pulse.state === "running")
      return <Empty title="Your desk is ready"><Button variant="contained" onClick={() => { desk.act({ action: "sign_in" }); }}>Start work</Button></Empty>;
    return <Loading what="your desk" />;
  }
  return (
    <div className={styles.desk} style={{ opacity: pulse.state === "lost" ? 0.5 : 1 }}>
      <StatePanel agent={agent} desk={desk} />
      <ContactPanel agent={agent} contact={contact} desk={desk} />
      {agent.status === "wrapping" ? <WrapUpPanel key={agent.since_ms} agent={agent} codes={codes} desk={desk} /> : <section className={styles.panel} aria-label="Messages for you"><Messages /></section>}
    </div>
  );
}

/** Where an agent works: small and calm. */
export default function Desk() {
  const { session } = useSession();
  if (!session.agent) return <Empty title="You are not set up as an agent">An administrator adds agents under Talk.</Empty>;
  return <DeskOf agentId={session.agent} />;
}
