import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router-dom";
import { useAlarms } from "../../frame/AlarmBanner";
import { byName, timeOfDay } from "../../frame/format";
import { Empty, Glyph, Loading } from "../../frame/states";
import { useSession } from "../../frame/session";
import { useLineState, useNow, useHeartbeat, useTopic } from "../../frame/useLive";
import { ClosuresDialog } from "./ClosuresDialog";
import styles from "./floor.module.css";
import { Now } from "./Now";
import { NeedsALook, People } from "./People";
import { PersonSheet } from "./PersonSheet";
import { QueueSheet } from "./QueueSheet";
import { QueueTable } from "./QueueTable";
import { TakenSheet } from "./TakenSheet";
import type { Centre, Floor as FloorView, FloorQueue } from "./types";
import { type Opened, useSheet } from "./useSheet";
import { verdict } from "./verdict";

/** One choice of what the floor shows. */
function Narrow({
  label,
  value,
  options,
  choose,
}: {
  label: string;
  value: string;
  options: [string, string][];
  choose: (value: string) => void;
}) {
  return (
    <TextField
      select
      size="small"
      value={value}
      slotProps={{ select: { displayEmpty: true }, htmlInput: { "aria-label": label } }}
      sx={{ width: 128, flex: "none" }}
      onChange={(event) => choose(event.target.value)}>
      {options.map(([name, words]) => (
        <MenuItem key={name} value={name}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}

interface NarrowingProps {
  /** Whether queues stand in groups. */
  groups: boolean;
  sites: string[];
  opened: Opened;
  open: (what: Partial<Opened>) => void;
}

function Narrowing({ groups, sites, opened, open }: NarrowingProps) {
  return (
    <>
      {groups && (
        <Narrow
          label="Queues"
          value={opened.by}
          options={[
            ["", "Each queue"],
            ["group", "By group"],
          ]}
          choose={(by) => open({ by })}
        />
      )}
      {sites.length > 0 && (
        <Narrow
          label="Site"
          value={opened.site}
          options={[["", "All sites"], ...sites.map((name): [string, string] => [name, name])]}
          choose={(site) => open({ site })}
        />
      )}
      <Narrow
        label="Channel"
        value={opened.channel}
        options={[
          ["", "All channels"],
          ["voice", "Calls"],
          ["text", "Texts"],
        ]}
        choose={(channel) => open({ channel })}
      />
    </>
  );
}

const views = [
  ["", "Agents"],
  ["now", "Flows, numbers, codes"],
] as const;

/** What is looked at: the queues of a channel that some agents serve, and the agents of a place. */
function narrowed(view: FloorView, { team, site, channel }: Opened) {
  const everybody = Object.entries(view.agents);
  const agents = everybody.filter(([, agent]) => !site || agent.site === site);
  const serve = agents.filter(([, agent]) => !team || agent.team === team);
  const served = (team || site) && new Set(serve.flatMap(([, agent]) => agent.queues));
  const queues = Object.entries(view.queues)
    .filter(([id, queue]) => (!channel || queue.channels.includes(channel)) && (!served || served.has(id)))
    .sort(([, a], [, b]) => byName(a.name, b.name));
  const sites = [...new Set([...Object.keys(view.sites), ...(site ? [site] : [])])].sort(byName);
  return { queues, agents, sites };
}

/** The sentence that says how it stands. */
function Verdict({ queues, centre }: { queues: [string, FloorQueue][]; centre: Centre }) {
  const alarms = useAlarms();
  const said = verdict(
    queues.map(([, queue]) => queue),
    centre,
    useNow(),
    alarms.map(([, alarm]) => alarm.name),
  );
  return (
    <span className={styles.verdict} role="status" style={{ color: said.bad ? "var(--plum-ink)" : "var(--fern-ink)" }}>
      <Glyph name={said.bad ? "peak" : "ridge"} colour={said.bad ? "var(--plum)" : "var(--fern)"} />
      {said.text}
    </span>
  );
}

/** Whether the service level is met, who waits, and what everybody does: now. */
export default function Floor() {
  const { view, refused } = useTopic("floor");
  const lineState = useLineState();
  const heartbeat = useHeartbeat();
  const { opened, open, close } = useSheet();
  const { may, session } = useSession();
  const [closing, setClosing] = useState(false);
  if (refused) return <Empty title={refused} />;
  if (!view)
    return heartbeat.state === "unknown" ? (
      <Empty title="The exchange has not been seen yet">The floor fills as soon as it runs.</Empty>
    ) : (
      <Loading what="the floor" />
    );
  const { queues, agents, sites } = narrowed(view, opened);
  const { centre } = view;
  const stale = lineState === "lost" || heartbeat.state === "lost";
  const why = lineState === "lost" ? "line lost" : "exchange lost";
  const queue = view.queues[opened.queue];
  const sheet = opened.person ? (
    <PersonSheet
      key={opened.person}
      id={opened.person}
      agent={view.agents[opened.person]}
      queues={view.queues}
      close={close}
    />
  ) : queue ? (
    <QueueSheet
      key={opened.queue}
      id={opened.queue}
      queue={queue}
      queues={view.queues}
      agents={agents}
      look={(person) => open({ person })}
      close={close}
    />
  ) : opened.contact ? (
    <TakenSheet id={opened.contact} close={close} />
  ) : null;
  return (
    <div
      className={styles.split}
      onKeyDown={(event) => {
        if (event.key === "Escape" && sheet) close();
      }}>
      <div className={styles.floor}>
        <div className={styles.head}>
          <h1>Floor</h1>
          <div className={stale ? styles.stale : undefined}>
            <Verdict queues={queues} centre={centre} />
          </div>
          <span className={styles.grow} />
          <Narrowing groups={Object.keys(view.groups).length > 0} sites={sites} opened={opened} open={open} />
          <span className={`chip ${stale ? "blocks" : "good"} ${styles.age}`}>
            {stale
              ? `Figures stand still since ${timeOfDay(heartbeat.beatMs, session.time_zone)}: ${why}`
              : `Data ${heartbeat.ageS} s old`}
          </span>
        </div>
        <div className={stale ? styles.stale : undefined}>
          {Object.keys(view.queues).length === 0 ? (
            <Empty title="No queues yet">
              <Link to="/wait/queues/new">Create the first queue</Link>, and give it members.
            </Empty>
          ) : (
            <QueueTable
              queues={queues}
              groups={view.groups}
              place={view.sites[opened.site]}
              centre={centre}
              opened={opened}
              open={open}
              narrow={sheet !== null}
            />
          )}
          <NeedsALook agents={agents} open={open} />
          <div className={styles.choice} role="radiogroup" aria-label="Below the queues">
            {views.map(([name, word]) => (
              <button
                key={name}
                type="button"
                role="radio"
                aria-checked={opened.view === name}
                onClick={() => open({ view: name })}>
                {word}
              </button>
            ))}
            {may("change", "diversions") && <Link to="/arrive/diversions/new">Divert a number…</Link>}
            {may("change", "closures") && (
              <Button size="small" onClick={() => setClosing(true)}>
                Close or open…
              </Button>
            )}
            {closing && <ClosuresDialog close={() => setClosing(false)} />}
          </div>
          {opened.view === "" ? (
            <People
              agents={agents}
              spans={view.spans}
              centre={centre}
              opened={opened}
              open={open}
              narrow={sheet !== null}
            />
          ) : (
            <Now />
          )}
        </div>
      </div>
      {sheet}
    </div>
  );
}
