import { InputBase } from "@mui/material";
import { useMemo, useState } from "react";
import { Link } from "react-router-dom";
import { useAlarms } from "../../frame/AlarmBanner";
import { clock, percent } from "../../frame/format";
import { agentStates, Empty, Glyph, Loading } from "../../frame/states";
import { useLineState, useNow, useHeartbeat, useTopic } from "../../frame/useLive";
import styles from "./floor.module.css";
import { HourStrip } from "./HourStrip";
import type { Centre, FloorAgent, FloorQueue, Hour, Span } from "./types";
import { verdict } from "./verdict";
import { sumOf } from "../reports/sumOf";
import { AXIS_S, WaitRibbon } from "./WaitRibbon";

const counts = ["signed_in", "available", "ringing", "on_contact", "wrapping", "away"] as const;
const heads = ["Signed in", "Available", "Ringing", "On contact", "Wrapping", "Away"];

function Count({ n }: { n: number }) {
  return <span className={n === 0 ? styles.zero : undefined}>{n}</span>;
}

function Level({ id, queue }: { id: string; queue: FloorQueue }) {
  const level = queue.figures.service_level;
  const goal = queue.goal_percent / 100;
  if (level === null) return <span className="dim">no figure yet</span>;
  const met = level >= goal;
  return (
    <span title={`Formula ${queue.formula}, goal ${queue.goal_percent} %`}>
      <Link className={styles.level} to={sumOf("level", id)} aria-label={`Service level today ${percent(level)}: show its sum`} style={{ color: met ? "var(--fern-ink)" : "var(--plum-ink)" }}>{percent(level)}</Link>{" "}
      <span className={styles.meter} aria-hidden="true">
        <i style={{ width: `${level * 100}%`, background: met ? "var(--fern)" : "var(--plum)" }} />
        <b style={{ left: `${goal * 100}%` }} />
      </span>{" "}
      <span className="dim">{met ? "met" : "below"}</span>
    </span>
  );
}

function QueueRow({ id, queue, now }: { id: string; queue: FloorQueue; now: number }) {
  const longest = queue.first_entered_ms === null ? null : now - queue.first_entered_ms;
  const { expected } = queue;
  const late = longest !== null && longest > queue.threshold_s * 1000;
  return (
    <tr className={late ? styles.late : undefined}>
      <td className="nowrap"><Link className={styles.name} to={`/wait/queues/${id}`}>{queue.name}</Link></td>
      <td><WaitRibbon beads={queue.waiting} threshold={queue.threshold_s} now={now} name={queue.name} /></td>
      <td className="num"><b><Count n={queue.waiting.length} /></b></td>
      <td className="num">{longest === null ? <span className={styles.zero}>none</span> : <b style={{ color: late ? "var(--plum-ink)" : undefined }}>{clock(longest)}</b>}</td>
      <td className="num" title={expected?.told ? "Told to callers" : "Not sure enough to be told to callers"}>{expected?.seconds != null ? <span className={expected.told ? undefined : styles.zero}>{clock(expected.seconds * 1000)}</span> : <span className={styles.zero}>–</span>}</td>
      {counts.map((name) => <td key={name} className="num"><Count n={queue[name]} /></td>)}
      <td><Level id={id} queue={queue} /></td>
    </tr>
  );
}

function Queues({ queues, centre, now }: { queues: [string, FloorQueue][]; centre: Centre; now: number }) {
  const longest = centre.first_entered_ms === null ? "none" : clock(now - centre.first_entered_ms);
  return (
    <table className={styles.table}>
      <colgroup><col style={{ width: "12%" }} /><col style={{ width: "24%" }} /><col span={9} /><col style={{ width: "14%" }} /></colgroup>
      <thead>
        <tr>
          <th>Queue</th>
          <th><div className={styles.axis}>{Array.from({ length: AXIS_S / 60 + 1 }, (_, m) => <span key={m}>{m}:00{m === 5 ? " +" : ""}</span>)}</div></th>
          <th className="num">Waiting</th><th className="num">Longest</th><th className="num" title="How long a caller who came now would wait">Expected</th>
          {heads.map((head) => <th key={head} className="num">{head}</th>)}
          <th>Service level today</th>
        </tr>
      </thead>
      <tbody>
        {queues.map(([id, queue]) => <QueueRow key={id} id={id} queue={queue} now={now} />)}
        <tr className={styles.total}>
          <td>Centre</td>
          <td className="dim nowrap" style={{ fontWeight: 400, fontSize: 12 }} title="Each agent is counted once here, and in every queue they serve above.">each agent counted once here</td>
          <td className="num">{centre.waiting}</td><td className="num">{longest}</td><td />
          {counts.map((name) => <td key={name} className="num"><Count n={centre[name]} /></td>)}
          <td><Link className={styles.level} to={sumOf("level_A")}>{percent(centre.figures.service_level)}</Link> <span className="dim">formula A</span></td>
        </tr>
      </tbody>
    </table>
  );
}

const doings: Record<FloorAgent["doing"], string> = { "": "", talking: "", holding: "on hold", consulting: "consulting", conference: "with a colleague", asked: "asked by a colleague" };

function AgentRow({ agent, hour, now }: { agent: FloorAgent; hour: Hour; now: number }) {
  const state = agentStates[agent.status] ?? { word: agent.status, glyph: "dashed" as const, colour: "var(--slate)" };
  const inHand = agent.status === "ringing" || agent.status === "on_contact" || agent.status === "wrapping";
  return (
    <div className={`${styles.agent} ${agent.emergency ? styles.inNeed : ""}`} role="row">
      <span role="cell" className="nowrap" title={agent.name}>{agent.name}{agent.staff_number && <span className="dim"> {agent.staff_number}</span>}</span>
      <span role="cell" className={styles.state}>
        <span className={agent.status === "ringing" ? styles.ringing : undefined}><Glyph name={state.glyph} colour={state.colour} /></span>
        <span className="nowrap"><b>{agent.emergency ? "Emergency" : state.word}</b> <span className="dim">{agent.reason || doings[agent.doing]}{agent.texts ? ` ${agent.texts} texts` : ""}</span></span>
      </span>
      <span role="cell" className="num">{clock(now - agent.since_ms)}</span>
      <span role="cell">{agent.extension}</span>
      <span role="cell" className="nowrap" title={agent.queue}>{inHand ? agent.caller : ""}</span>
      <span role="cell"><HourStrip hour={hour} now={now} /></span>
    </div>
  );
}

/** Each agent's last hour; made anew only when a state has changed. */
function useHours(spans: Record<string, Span>): Map<string, Hour> {
  return useMemo(() => {
    const hours = new Map<string, Hour>();
    for (const { agent, states } of Object.values(spans)) hours.set(agent, [...(hours.get(agent) ?? []), ...states]);
    for (const hour of hours.values()) hour.sort(([a], [b]) => a - b);
    return hours;
  }, [spans]);
}

const NO_STATES: Hour = [];

function Agents({ agents, spans, centre, now }: { agents: Record<string, FloorAgent>; spans: Record<string, Span>; centre: Centre; now: number }) {
  const hours = useHours(spans);
  const all = Object.entries(agents);
  const [text, setText] = useState("");
  const wanted = text.trim().toLowerCase();
  const fits = ([, agent]: [string, FloorAgent]) => !wanted || `${agent.name} ${agent.extension} ${agent.team} ${agent.staff_number}`.toLowerCase().includes(wanted);
  const teams = new Map<string, [string, FloorAgent][]>();
  for (const one of all.filter(fits).sort(([, a], [, b]) => a.name.localeCompare(b.name))) {
    const team = one[1].team || "No team";
    teams.set(team, [...(teams.get(team) ?? []), one]);
  }
  return (
    <section aria-label="Agents">
      <div className={styles.head}>
        <h1>Agents</h1>
        <span className="dim">{centre.signed_in} of {centre.known} signed in</span>
        <span style={{ flex: 1 }} />
        <InputBase placeholder="Agent, extension or team" value={text} onChange={(event) => { setText(event.target.value); }}
          inputProps={{ "aria-label": "Find an agent" }}
          sx={{ px: 1, background: "var(--sheet)", border: "1px solid var(--edge)", borderRadius: 1, height: 28, width: 220 }} />
      </div>
      {all.length === 0 && <Empty title="Nobody is signed in">Agents appear here as soon as they start work at their desk.</Empty>}
      <div className={styles.agents}>
        {[...teams].sort().map(([team, members]) => (
          <div key={team} className={styles.team} role="table" aria-label={team}>
            <div className={styles.teamHead}><b>{team}</b>{members.length} signed in</div>
            {members.map(([id, agent]) => <AgentRow key={id} agent={agent} hour={hours.get(id) ?? NO_STATES} now={now} />)}
          </div>
        ))}
      </div>
    </section>
  );
}

/** Whether the service level is met, who waits, and what everybody does: now. */
export default function Floor() {
  const { view, refused } = useTopic("floor");
  const alarms = useAlarms();
  const lineState = useLineState();
  const heartbeat = useHeartbeat();
  const now = useNow(250);
  if (refused) return <Empty title={refused} />;
  if (!view) return heartbeat.state === "unknown" ? <Empty title="The exchange has not been seen yet">The floor fills as soon as it runs.</Empty> : <Loading what="the floor" />;
  const queues = Object.entries(view.queues).sort(([, a], [, b]) => a.name.localeCompare(b.name));
  const { centre } = view;
  const said = verdict(queues.map(([, queue]) => queue), centre, now, alarms.map(([, alarm]) => alarm.name));
  const stale = lineState === "lost" || heartbeat.state === "lost";
  const why = lineState === "lost" ? "line lost" : "exchange lost";
  return (
    <>
      <div className={styles.head}>
        <h1>Floor</h1>
        <span className={styles.verdict} role="status" style={{ color: said.bad ? "var(--plum-ink)" : "var(--fern-ink)" }}>
          <Glyph name={said.bad ? "peak" : "ridge"} colour={said.bad ? "var(--plum)" : "var(--fern)"} />
          {said.text}
        </span>
        <span className={`chip ${stale ? "blocks" : "good"} ${styles.age}`}>{stale ? `Figures stand still: ${why}` : `Data ${heartbeat.ageS} s old`}</span>
      </div>
      <div className={stale ? styles.stale : undefined}>
        {queues.length === 0 ? (
          <Empty title="No queues yet"><Link to="/wait/queues/new">Create the first queue</Link>, and give it members.</Empty>
        ) : (
          <Queues queues={queues} centre={centre} now={now} />
        )}
        <Agents agents={view.agents} spans={view.spans} centre={centre} now={now} />
      </div>
    </>
  );
}
