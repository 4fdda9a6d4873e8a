import { Button, IconButton, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router-dom";
import { clock, percent } from "../../frame/format";
import { isLate } from "../../frame/late";
import { useSession } from "../../frame/session";
import { Since } from "../../frame/Since";
import { useNow } from "../../frame/useLive";
import { agentStates, Glyph } from "../../frame/states";
import { useActing } from "../../frame/useActing";
import { sumOf } from "../reports/sumOf";
import { NumberBox } from "../shared/NumberBox";
import styles from "./floor.module.css";
import { WhyWaits } from "./WhyWaits";
import { type Bead, doings, type FloorAgent, type FloorQueue } from "./types";

/** What can be done with one who waits; what it does to them is said before. */
function WaitingActs({ bead, queue, queues }: { bead: Bead; queue: string; queues: Record<string, FloorQueue> }) {
  const { onContact, busy } = useActing();
  const [to, setTo] = useState("");
  const [priority, setPriority] = useState<number | null>(bead.priority);
  const others = Object.entries(queues).filter(([one]) => one !== queue);
  return (
    <>
      <div className={styles.pair}>
        <NumberBox label="Priority" value={priority} least={0} most={20} width={150} change={setPriority} />
        <Button
          variant="outlined"
          disabled={busy || priority === null}
          onClick={() => onContact({ contact: bead.contact, act: "priority", priority: priority ?? 0 })}>
          Set
        </Button>
      </div>
      <div className={styles.pair}>
        <TextField
          select
          size="small"
          label="Move to"
          value={to}
          slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
          onChange={(event) => setTo(event.target.value)}>
          <MenuItem value="">choose a queue</MenuItem>
          {others.map(([one, { name }]) => (
            <MenuItem key={one} value={one}>
              {name}
            </MenuItem>
          ))}
        </TextField>
        <Button
          variant="outlined"
          disabled={!to || busy}
          onClick={() => onContact({ contact: bead.contact, act: "move", queue: to })}>
          Move
        </Button>
      </div>
      <div className={styles.does}>
        Who is served first goes by priority, then by wait. Moved, they join the end of the other queue.
      </div>
      {bead.channel === "voice" && (
        <div className={styles.pair}>
          <span className="dim">They keep their place, taken or not.</span>
          <Button variant="outlined" disabled={busy} onClick={() => onContact({ contact: bead.contact, act: "offer" })}>
            Offer a callback
          </Button>
        </div>
      )}
    </>
  );
}

function WaitingRow({
  bead,
  now,
  late,
  open,
  toggle,
  children,
}: {
  bead: Bead;
  now: number;
  late: boolean;
  open: boolean;
  toggle: () => void;
  children: React.ReactNode;
}) {
  return (
    <li>
      <button type="button" className={styles.waitingRow} aria-expanded={open} onClick={toggle}>
        <b>{bead.caller || "withheld"}</b>
        <span className="num" style={{ color: late ? "var(--plum-ink)" : undefined }}>
          {clock(now - bead.entered_ms)}
        </span>
        <span className="dim">priority {bead.priority}</span>
        <span className="dim nowrap">
          {bead.ringing ? `rings ${bead.ringing}` : bead.channel === "text" ? "text" : ""}
        </span>
      </button>
      {open && children}
    </li>
  );
}

const order = ["available", "ringing", "on_contact", "wrapping", "away"] as const;

interface Props {
  id: string;
  queue: FloorQueue;
  queues: Record<string, FloorQueue>;
  agents: [string, FloorAgent][];
  look: (person: string) => void;
  close: () => void;
}

/** A queue, opened: who waits, who is there for them, and how today went. */
export function QueueSheet({ id, queue, queues, agents, look, close }: Props) {
  const now = useNow();
  const { may } = useSession();
  const [chosen, setChosen] = useState("");
  const there = agents.filter(([, agent]) => agent.queues.includes(id));
  const { figures, expected } = queue;
  const score = expected?.best ? expected.scores[expected.best] : undefined;
  return (
    <aside className={styles.sheet} aria-label={queue.name}>
      <div className={styles.sheetHead}>
        <h2>{queue.name}</h2>
        <Link to={`/wait/queues/${id}`} className="nowrap">
          Its settings
        </Link>
        <IconButton size="small" aria-label="Close" onClick={close}>
          ✕
        </IconButton>
      </div>
      <div className={styles.sheetBody}>
        <section aria-label="Who waits">
          <div className={styles.part}>
            <h2>{queue.waiting.length} waiting</h2>
            <span className="dim">
              {queue.callbacks > 0 && (
                <Link to="/wait/callbacks">
                  and {queue.callbacks} {queue.callbacks === 1 ? "callback" : "callbacks"}
                </Link>
              )}
            </span>
          </div>
          <ul className={styles.waitingList}>
            {queue.waiting.map((bead) => (
              <WaitingRow
                key={bead.contact}
                bead={bead}
                now={now}
                late={isLate(bead, now)}
                open={chosen === bead.contact}
                toggle={() => setChosen(chosen === bead.contact ? "" : bead.contact)}>
                <div className={styles.waitingActs}>
                  <WhyWaits contact={bead.contact} />
                  <Link to={`/learn/contacts/${bead.contact}`}>What happened so far</Link>
                  {may("use", "floor") && <WaitingActs bead={bead} queue={id} queues={queues} />}
                </div>
              </WaitingRow>
            ))}
          </ul>
          {queue.waiting.length === 0 && <span className="dim">Nobody waits.</span>}
        </section>
        <section aria-label="Today">
          <div className={styles.part}>
            <h2>Today</h2>
            <span className="dim">
              goal {queue.goal_percent} % within {clock(queue.threshold_s * 1000)}
            </span>
          </div>
          <div className={styles.figures}>
            <span>
              Offered{" "}
              <b>
                <Link to={sumOf("offered", id)}>{figures.offered}</Link>
              </b>
            </span>
            <span>
              Answered{" "}
              <b>
                <Link to={sumOf("answered", id)}>{figures.answered}</Link>
              </b>
            </span>
            <span>
              Abandoned{" "}
              <b>
                <Link to={sumOf("abandoned", id)}>{figures.abandoned}</Link>
              </b>
            </span>
            <span>
              Late <b>{figures.answered_late + figures.abandoned_late}</b>
            </span>
            <span>
              Level{" "}
              <b>
                <Link to={sumOf("level", id)}>{percent(figures.service_level)}</Link>
              </b>
            </span>
            <span>
              Half hour <b>{percent(queue.level_now)}</b>
            </span>
            <span>
              Average wait <b>{figures.average_wait_ms === null ? "–" : clock(figures.average_wait_ms)}</b>
            </span>
          </div>
          <div className="dim">
            {expected?.seconds == null
              ? "No wait can be expected yet."
              : `A caller who came now would wait ${clock(expected.seconds * 1000)}${score && score.scored > 0 ? `; ${percent(score.within / score.scored, 0)} of ${score.scored} came as told` : ""}.`}
          </div>
        </section>
        <section aria-label="Who is there">
          <div className={styles.part}>
            <h2>{queue.signed_in} signed in</h2>
            {there.length < queue.signed_in && <span className="dim">{there.length} of them of your teams</span>}
          </div>
          {order.map((status) => {
            const rows = there.filter(([, agent]) => agent.status === status);
            const state = agentStates[status];
            return (
              rows.length > 0 &&
              state && (
                <div key={status}>
                  <div className={styles.stateHead}>
                    <Glyph name={state.glyph} colour={state.colour} /> {state.word} {rows.length}
                  </div>
                  <ul className={styles.there}>
                    {rows
                      .sort(([, a], [, b]) => a.since_ms - b.since_ms)
                      .map(([person, agent]) => (
                        <li key={person}>
                          <button type="button" className={styles.link} onClick={() => look(person)}>
                            {agent.name}
                          </button>
                          <span className="num">
                            <Since from={agent.since_ms} />
                          </span>
                          <span className="dim nowrap">
                            {agent.reason ||
                              (agent.queue && agent.queue !== queue.name ? `for ${agent.queue}` : doings[agent.doing])}
                            {agent.extra.includes(id) ? " this shift" : ""}
                          </span>
                        </li>
                      ))}
                  </ul>
                </div>
              )
            );
          })}
          {there.length === 0 && <span className="dim">Nobody of your teams is signed in for it.</span>}
        </section>
      </div>
    </aside>
  );
}
