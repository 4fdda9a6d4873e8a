import { Button, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { memo, useMemo, useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { byName, clock } from "../../frame/format";
import { useSession } from "../../frame/session";
import { agentStates, Empty, Glyph } from "../../frame/states";
import { useInView } from "../../frame/useInView";
import { useNow } from "../../frame/useLive";
import styles from "./floor.module.css";
import { HourStrip } from "./HourStrip";
import { LimitsDialog } from "./LimitsDialog";
import { needsNow } from "./needs";
import { type Centre, doings, type FloorAgent, type Hour, inHand, type Span } from "./types";
import type { Opened } from "./useSheet";
import { FindBox } from "../shared/FindBox";

type Open = (what: Partial<Opened>) => void;
const MOST_NEEDS = 6;
const DAYS_MS = 15_000;

/** Who needs a look first, longest first: nothing stands here while nobody does. */
export function NeedsALook({ agents, open }: { agents: [string, FloorAgent][]; open: Open }) {
  const now = useNow();
  const found = agents
    .map(([id, agent]) => ({ id, agent, why: needsNow(agent, now) }))
    .filter(({ why }) => why.length > 0)
    .sort((a, b) => a.agent.since_ms - b.agent.since_ms);
  if (found.length === 0) return null;
  return (
    <div className={styles.needs} role="status" aria-label="Who needs a look">
      <b>Needs a look</b>
      {found.slice(0, MOST_NEEDS).map(({ id, agent, why }) => (
        <button key={id} type="button" className={styles.need} onClick={() => open({ person: id })}>
          <b>{agent.name}</b> {why.join(", ")}
        </button>
      ))}
      {found.length > MOST_NEEDS && <span className="dim">and {found.length - MOST_NEEDS} more</span>}
    </div>
  );
}

type Day = Schemas["AgentRow"];

/** What today made of an agent, as reports count it. */
function DayCells({ day }: { day: Day | undefined }) {
  const each = (ms: number | null | undefined) => (ms == null ? "–" : clock(ms));
  return (
    <>
      <span role="cell" className="num" title="Talk, average">
        {each(day?.talk_average_ms)}
      </span>
      <span role="cell" className="num" title="Hold, average">
        {each(day?.hold_average_ms)}
      </span>
      <span role="cell" className="num" title="Wrap-up, average">
        {each(day?.wrap_average_ms)}
      </span>
      <span role="cell" className="num" title="Rings, and contacts handled">
        {day ? `${day.rang} / ${day.legs}` : "–"}
      </span>
    </>
  );
}

/** The days of a team's agents so far; asked for only where one team is looked at. */
function useDays(team: string | undefined): Map<string, Day> {
  const query = { period: "today" as const, ...(team && { team }) };
  const report = useQuery({
    queryKey: keys.list("report-agents", query),
    queryFn: () => data(api.GET("/api/v1/reports/agents", { params: { query } })),
    refetchInterval: DAYS_MS,
    enabled: team !== undefined,
  });
  return useMemo(
    () => new Map(team === undefined ? [] : report.data?.rows.map((row) => [row.agent, row])),
    [team, report.data],
  );
}

/** How long somebody has been at it, marked where that needs a look. */
function For({ agent }: { agent: FloorAgent }) {
  const now = useNow();
  const why = needsNow(agent, now);
  return (
    <span role="cell" className={`num ${why.length > 0 ? styles.needing : ""}`} title={why.join(", ") || undefined}>
      {clock(now - agent.since_ms)}
    </span>
  );
}

interface RowProps {
  id: string;
  /** Shown where one team is looked at. */
  day?: Day;
  wide: boolean;
  agent: FloorAgent;
  hour: Hour;
  opened: boolean;
  open: Open;
}

/** An agent's row, drawn anew only when something of the agent has changed. */
const AgentRow = memo(function AgentRow({ id, agent, day, wide, hour, opened, open }: RowProps) {
  const state = agentStates[agent.status] ?? { word: agent.status, glyph: "dashed" as const, colour: "var(--slate)" };
  const by = agent.attended.find((one) => one.how !== "listens");
  const [ref, inView] = useInView();
  if (!inView)
    return (
      <div ref={ref} className={styles.agent} role="row">
        <span role="cell">{agent.name}</span>
      </div>
    );
  return (
    <div
      ref={ref}
      className={`${styles.agent} ${wide ? styles.wide : ""} ${agent.emergency ? styles.inNeed : ""}`}
      role="row"
      aria-current={opened || undefined}>
      <span role="cell" className="nowrap" title={agent.name}>
        <button type="button" className={styles.link} onClick={() => open({ person: id })}>
          {agent.name}
        </button>
        {agent.staff_number && <span className="dim"> {agent.staff_number}</span>}
      </span>
      <span role="cell" className={styles.state}>
        <span className={agent.status === "ringing" ? styles.ringing : undefined}>
          <Glyph name={state.glyph} colour={state.colour} />
        </span>
        <span className="nowrap">
          <b>{agent.emergency ? "Emergency" : state.word}</b>{" "}
          <span className="dim">
            {by ? `with ${by.by}` : agent.reason || doings[agent.doing]}
            {agent.texts ? ` ${agent.texts} texts` : ""}
          </span>
        </span>
      </span>
      <For agent={agent} />
      <span role="cell">{agent.extension}</span>
      <span role="cell" className="nowrap" title={agent.queue}>
        {inHand.has(agent.status) ? agent.caller : ""}
      </span>
      {wide && <DayCells day={day} />}
      <span role="cell">
        <HourStrip hour={hour} />
      </span>
    </div>
  );
});

/** Each agent's last hour, the same list as before while none of its states has changed. */
function useHours(spans: Record<string, Span>): Map<string, Hour> {
  const [known] = useState(() => new Map<string, { parts: Span[]; hour: Hour }>());
  return useMemo(() => {
    const parts = new Map<string, Span[]>();
    for (const span of Object.values(spans)) parts.set(span.agent, [...(parts.get(span.agent) ?? []), span]);
    const hours = new Map<string, Hour>();
    for (const [agent, its] of parts) {
      const before = known.get(agent);
      const same = before?.parts.length === its.length && before.parts.every((span, at) => span === its[at]);
      const hour = same ? before.hour : its.flatMap((span) => span.states).sort(([a], [b]) => a - b);
      known.set(agent, { parts: its, hour });
      hours.set(agent, hour);
    }
    return hours;
  }, [spans, known]);
}

const NO_STATES: Hour = [];

interface Props {
  agents: [string, FloorAgent][];
  spans: Record<string, Span>;
  centre: Centre;
  opened: Opened;
  open: Open;
  narrow: boolean;
}

/** Everybody signed in, by team: state, since when, contact in hand, last hour. */
export function People({ agents, spans, centre, opened, open, narrow }: Props) {
  const hours = useHours(spans);
  const [text, setText] = useState("");
  const wanted = text.trim().toLowerCase();
  const fits = ([, agent]: [string, FloorAgent]) =>
    !wanted || `${agent.name} ${agent.extension} ${agent.team} ${agent.staff_number}`.toLowerCase().includes(wanted);
  const names = [...new Set(agents.map(([, agent]) => agent.team))].filter(Boolean).sort();
  const { may } = useSession();
  const [limiting, setLimiting] = useState(false);
  const team = agents.find(([, agent]) => agent.team === opened.team)?.[1].team_id;
  const wide = Boolean(opened.team) && !narrow;
  const days = useDays(wide ? team : undefined);
  const teams = new Map<string, [string, FloorAgent][]>();
  for (const one of agents.filter(fits).sort(([, a], [, b]) => byName(a.name, b.name))) {
    const name = one[1].team || "No team";
    if (!opened.team || opened.team === name) teams.set(name, [...(teams.get(name) ?? []), one]);
  }
  return (
    <section aria-label="Agents">
      <div className={styles.head}>
        <h1>Agents</h1>
        <span className="dim">
          {centre.signed_in} of {centre.known} signed in
        </span>
        <span className="fill" />
        <TextField
          select
          size="small"
          value={names.includes(opened.team) ? opened.team : ""}
          slotProps={{ select: { displayEmpty: true }, htmlInput: { "aria-label": "Team" } }}
          sx={{ width: 170 }}
          onChange={(event) => open({ team: event.target.value })}>
          <MenuItem value="">All teams</MenuItem>
          {names.map((name) => (
            <MenuItem key={name} value={name}>
              {name}
            </MenuItem>
          ))}
        </TextField>
        {team && may("use", "floor") && (
          <Button size="small" onClick={() => setLimiting(true)}>
            Limits…
          </Button>
        )}
        {team && limiting && <LimitsDialog team={team} name={opened.team} close={() => setLimiting(false)} />}
        <FindBox
          label="Find an agent"
          placeholder="Agent, extension or team"
          value={text}
          width={200}
          change={setText}
        />
      </div>
      {agents.length === 0 && (
        <Empty title="Nobody is signed in">Agents appear here as soon as they start work at their desk.</Empty>
      )}
      <div className={`${styles.agents} ${narrow || teams.size === 1 ? styles.oneColumn : ""}`}>
        {[...teams].sort().map(([name, members]) => (
          <div key={name} className={styles.team} role="table" aria-label={name}>
            <div className={styles.teamHead}>
              <b>{name}</b>
              {members.length} signed in
            </div>
            {wide && (
              <div className={`${styles.agent} ${styles.wide} dim`} role="row" aria-hidden="true">
                <span>Agent</span>
                <span>State</span>
                <span className="num">For</span>
                <span>Ext.</span>
                <span>In hand</span>
                <span className="num">Talk</span>
                <span className="num">Hold</span>
                <span className="num">Wrap-up</span>
                <span className="num">Rung / had</span>
                <span>Last hour</span>
              </div>
            )}
            {members.map(([id, agent]) => (
              <AgentRow
                key={id}
                id={id}
                wide={wide}
                day={days.get(id)}
                agent={agent}
                hour={hours.get(id) ?? NO_STATES}
                opened={opened.person === id}
                open={open}
              />
            ))}
          </div>
        ))}
      </div>
    </section>
  );
}
