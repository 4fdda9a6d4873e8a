import { Fragment, memo, type ReactNode, type Ref } from "react";
import { Link } from "react-router-dom";
import { clock, percent } from "../../frame/format";
import { isLate } from "../../frame/late";
import { Since } from "../../frame/Since";
import { useInView } from "../../frame/useInView";
import { useNow } from "../../frame/useLive";
import { sumOf } from "../reports/sumOf";
import { formulaNames } from "../shared/formulas";
import styles from "./floor.module.css";
import type { Centre, Counts, FloorQueue, Group } from "./types";
import type { Opened } from "./useSheet";
import { AXIS_S, WaitRibbon } from "./WaitRibbon";

const counts = ["signed_in", "available", "ringing", "on_contact", "wrapping", "away"] as const;
const heads = ["Signed in", "Available", "Ringing", "On contact", "Wrapping", "Away"];

function Count({ n, open }: { n: number; open?: () => void }) {
  if (open && n > 0)
    return (
      <button type="button" className={styles.count} onClick={open}>
        {n}
      </button>
    );
  return <span className={n === 0 ? styles.zero : undefined}>{n}</span>;
}

function Level({ id, queue }: { id: string; queue: FloorQueue }) {
  const level = queue.figures.service_level;
  const goal = queue.goal_percent / 100;
  if (level === null) return <span className="dim">no figure yet</span>;
  const met = !queue.below_goal;
  return (
    <span title={`${formulaNames[queue.formula]}, goal ${queue.goal_percent} %`}>
      <Link
        className={styles.level}
        to={sumOf("level", id)}
        aria-label={`Service level today ${percent(level)}: show its sum`}
        style={{ color: met ? "var(--fern-ink)" : "var(--plum-ink)" }}>
        {percent(level)}
      </Link>{" "}
      <span className={styles.meter} aria-hidden="true">
        <i style={{ width: `${level * 100}%`, background: met ? "var(--fern)" : "var(--plum)" }} />
        <b style={{ left: `${goal * 100}%` }} />
      </span>{" "}
      <span className="dim">{met ? "met" : "below"}</span>
    </span>
  );
}

type Open = (what: Partial<Opened>) => void;

interface RowProps {
  id: string;
  queue: FloorQueue;
  opened: boolean;
  narrow: boolean;
  open: Open;
}

/** What of a queue does not move with the clock. */
const Rest = memo(function Rest({ id, queue, narrow, open }: Omit<RowProps, "opened">) {
  const { expected } = queue;
  const look = () => {
    open({ queue: id });
  };
  return (
    <>
      <td className="num" title={expected?.told ? "Told to callers" : "Not sure enough to be told to callers"}>
        {expected?.seconds != null ? (
          <span className={expected.told ? undefined : styles.zero}>{clock(expected.seconds * 1000)}</span>
        ) : (
          <span className={styles.zero}>–</span>
        )}
      </td>
      {!narrow &&
        counts.map((name) => (
          <td key={name} className="num">
            <Count n={queue[name]} open={look} />
          </td>
        ))}
      <td>
        <Level id={id} queue={queue} />
      </td>
    </>
  );
});

function RowAt({ now, opened, seen, ...row }: RowProps & { now: number; seen: Ref<HTMLTableRowElement> }) {
  const { id, queue, open } = row;
  const longest = queue.first_entered_ms === null ? null : now - queue.first_entered_ms;
  const late = queue.waiting.some((wait) => isLate(wait, now));
  const look = () => {
    open({ queue: id });
  };
  return (
    <tr ref={seen} className={late ? styles.late : undefined} aria-current={opened || undefined}>
      <td className="nowrap">
        <button type="button" className={styles.name} onClick={look}>
          {queue.name}
        </button>
      </td>
      <td>
        <WaitRibbon beads={queue.waiting} threshold={queue.threshold_s} now={now} name={queue.name} />
      </td>
      <td className="num">
        <b>
          <Count n={queue.waiting.length} open={look} />
        </b>
      </td>
      <td className="num">
        {longest === null ? (
          <span className={styles.zero}>none</span>
        ) : (
          <b className={late ? styles.tooLong : undefined}>{clock(longest)}</b>
        )}
      </td>
      <Rest {...row} />
    </tr>
  );
}

function MovingRow(row: RowProps & { seen: Ref<HTMLTableRowElement> }) {
  return <RowAt {...row} now={useNow()} />;
}

/** A queue's row: it moves only while somebody waits, and is drawn anew only when the queue has changed. */
const QueueRow = memo(function QueueRow(row: RowProps) {
  const [ref, inView] = useInView();
  if (!inView)
    return (
      <tr ref={ref}>
        <td colSpan={row.narrow ? 6 : 12}>{row.queue.name}</td>
      </tr>
    );
  return row.queue.first_entered_ms === null ? (
    <RowAt {...row} now={0} seen={ref} />
  ) : (
    <MovingRow {...row} seen={ref} />
  );
});

interface TotalProps {
  name: string;
  said: ReactNode;
  /** What is known of who waits; nothing for agents alone. */
  waiting?: Group;
  agents: Counts;
  narrow: boolean;
  level?: ReactNode;
}

/** Several queues, or the agents of a place, in one row. */
function TotalRow({ name, said, waiting, agents, narrow, level }: TotalProps) {
  const longest = waiting && (waiting.first_entered_ms === null ? "none" : <Since from={waiting.first_entered_ms} />);
  return (
    <tr className={styles.total}>
      <td>{name}</td>
      <td
        className={`dim nowrap ${styles.said}`}
        title="Each agent is counted once here, and in every queue they serve.">
        {said}
      </td>
      <td className="num">{waiting?.waiting}</td>
      <td className="num">{longest}</td>
      <td />
      {!narrow &&
        counts.map((count) => (
          <td key={count} className="num">
            <Count n={agents[count]} />
          </td>
        ))}
      <td>{level}</td>
    </tr>
  );
}

/** Queues by their groups, those of none last. */
function grouped(queues: [string, FloorQueue][]): [string, [string, FloorQueue][]][] {
  const found = new Map<string, [string, FloorQueue][]>();
  for (const one of queues) found.set(one[1].group, [...(found.get(one[1].group) ?? []), one]);
  return [...found].sort(([a], [b]) => Number(!a) - Number(!b) || a.localeCompare(b));
}

interface Props {
  queues: [string, FloorQueue][];
  /** By name; none where each queue stands for itself. */
  groups: Record<string, Group>;
  centre: Centre;
  /** The agents of the place that is looked at. */
  place?: Counts;
  opened: Opened;
  open: Open;
  narrow: boolean;
}

/** The queues; beside an open sheet without the counts of agents, which the sheet has. */
export function QueueTable({ queues, groups, centre, place, opened, open, narrow }: Props) {
  const row = ([id, queue]: [string, FloorQueue]) => (
    <QueueRow key={id} id={id} queue={queue} opened={opened.queue === id} narrow={narrow} open={open} />
  );
  return (
    <table className={`${styles.table} ${opened.by === "group" ? styles.grouped : ""}`}>
      <colgroup>
        <col style={{ width: narrow ? "16%" : "12%" }} />
        <col style={{ width: narrow ? "38%" : "24%" }} />
        <col span={narrow ? 3 : 9} />
        <col style={{ width: narrow ? "20%" : "14%" }} />
      </colgroup>
      <thead>
        <tr>
          <th>Queue</th>
          <th>
            <div className={styles.axis}>
              {Array.from({ length: AXIS_S / 60 + 1 }, (_, m) => (
                <span key={m}>
                  {m}:00{m === 5 ? " +" : ""}
                </span>
              ))}
            </div>
          </th>
          <th className="num">Waiting</th>
          <th className="num">Longest</th>
          <th className="num" title="How long a caller who came now would wait">
            Expected
          </th>
          {!narrow &&
            heads.map((head) => (
              <th key={head} className="num">
                {head}
              </th>
            ))}
          <th>Service level today</th>
        </tr>
      </thead>
      <tbody>
        {opened.by === "group"
          ? grouped(queues).map(([name, members]) => {
              const group = groups[name];
              return (
                <Fragment key={name}>
                  {group && (
                    <TotalRow
                      narrow={narrow}
                      name={name}
                      said={members.length === 1 ? "one queue" : `${members.length} queues`}
                      waiting={group}
                      agents={group}
                      level={
                        <>
                          <b>{percent(group.figures.service_level)}</b> <span className="dim">{formulaNames.A}</span>
                        </>
                      }
                    />
                  )}
                  {!group && (
                    <tr className={styles.total}>
                      <td colSpan={narrow ? 6 : 12}>In no group</td>
                    </tr>
                  )}
                  {members.map(row)}
                </Fragment>
              );
            })
          : queues.map(row)}
        {place && <TotalRow narrow={narrow} name={`At ${opened.site}`} said="agents who work there" agents={place} />}
        <TotalRow
          narrow={narrow}
          name="Centre"
          said="each agent counted once here"
          waiting={centre}
          agents={centre}
          level={
            <>
              <Link className={styles.level} to={sumOf("level_A")}>
                {percent(centre.figures.service_level)}
              </Link>{" "}
              <span className="dim">{formulaNames.A}</span>
            </>
          }
        />
      </tbody>
    </table>
  );
}
