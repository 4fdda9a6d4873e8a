import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, percent, timeOfDay, weekdayOf } from "../../frame/format";
import { useSession } from "../../frame/session";
import { sumOf } from "../reports/sumOf";
import type { FloorQueue } from "../floor/types";
import { formulaNames } from "../shared/formulas";
import styles from "./queues.module.css";

const USUAL_MS = 120_000;

/** What is usual in a queue by this time of the weekday; null where no earlier day says it. */
function useUsual(id: string) {
  const { may } = useSession();
  const usual = useQuery({
    queryKey: keys.one("usual", id),
    queryFn: () => data(api.GET("/api/v1/reports/usual/{queue}", { params: { path: { queue: id } } })),
    enabled: may("see", "reports"),
    refetchInterval: USUAL_MS,
  });
  return usual.data?.figures ? { ...usual.data, figures: usual.data.figures } : null;
}

/** Today's figures of a queue: every way out, adding up to those offered. */
export function Today({ id, queue }: { id: string; queue: FloorQueue | undefined }) {
  const { session } = useSession();
  const usual = useUsual(id);
  const u = usual?.figures;
  if (!queue) return <span className="dim">Today’s figures come with the exchange.</span>;
  const f = queue.figures;
  const parts: [string, number, string][] = [
    ["answered", f.answered, "answered"],
    ["abandoned", f.abandoned, "abandoned"],
    ["left otherwise", f.left_otherwise, ""],
    ["waiting now", f.under_way, "under_way"],
    ["offered", f.offered, "offered"],
  ];
  const rows: [string, string, string, string][] = [
    [
      `Service level ${formulaNames[queue.formula]}, goal ${queue.goal_percent} %`,
      percent(f.service_level),
      "level",
      u ? percent(u.level) : "",
    ],
    [
      "Average wait in queue, answered",
      f.average_wait_ms === null ? "–" : clock(f.average_wait_ms),
      "wait_average",
      u?.wait_average_ms == null ? "–" : clock(u.wait_average_ms),
    ],
    ["Longest wait, answered", f.answered ? clock(f.longest_answered_ms) : "–", "wait_longest", ""],
    [
      `Answered after ${clock(queue.threshold_s * 1000)}`,
      String(f.answered_late),
      "answered_late",
      u ? String(Math.round(u.answered_late)) : "",
    ],
  ];
  const usually: Record<string, number | undefined> = {
    answered: u?.answered,
    abandoned: u?.abandoned,
    offered: u?.offered,
  };
  return (
    <section aria-label="Today so far">
      <h2>
        Today so far <span className="dim light">offered = every way out + waiting now</span>
      </h2>
      <div className={styles.sum}>
        {parts.map(([name, value, sum], i) => (
          <div key={name} className={i === parts.length - 1 ? styles.whole : undefined}>
            <b>{sum ? <Link to={sumOf(sum, id)}>{value}</Link> : value}</b>
            <span>{name}</span>
            {usually[name] !== undefined && <span>usual {Math.round(usually[name])}</span>}
          </div>
        ))}
      </div>
      <table className={styles.figures}>
        {usual && (
          <thead>
            <tr>
              <th align="left" className="dim">
                Usual: the mean of {usual.days === 1 ? "one" : usual.days}{" "}
                {weekdayOf(usual.until_ms, session.time_zone)} until{" "}
                {timeOfDay(usual.until_ms, session.time_zone).slice(0, 5)}
              </th>
              <th align="right">Today</th>
              <th align="right">Usual</th>
            </tr>
          </thead>
        )}
        <tbody>
          {rows.map(([name, value, sum, was]) => (
            <tr key={name}>
              <td>{name}</td>
              <td className="num">
                <Link to={sumOf(sum, id)}>{value}</Link>
              </td>
              {usual && <td className="num dim">{was}</td>}
            </tr>
          ))}
        </tbody>
      </table>
      <p className={styles.told}>
        <Link to={`/learn/reports/queues?period=28days&queues=${id}`}>The last 28 days</Link> ·{" "}
        <Link to={`/learn/reports/hours?period=28days&queues=${id}`}>When it is busy</Link>
      </p>
    </section>
  );
}

const estimators: Record<string, string> = {
  last: "wait of the last one taken",
  head: "wait of the first in line",
  rate: "line over recent pace",
  staff: "agents, handle time, patience",
};

/** How long a caller who came now would wait, and how well each way of estimating it did. */
export function ExpectedWait({ queue }: { queue: FloorQueue | undefined }) {
  const expected = queue?.expected;
  if (!expected) return null;
  const seconds = (value: number | null) => (value === null ? "–" : clock(value * 1000));
  const signed = (value: number | null) =>
    value === null ? "–" : `${value < 0 ? "−" : "+"}${clock(Math.abs(value) * 1000)}`;
  return (
    <section aria-label="Expected wait">
      <h2>
        Expected wait {expected.seconds !== null && <b>{seconds(expected.seconds)}</b>}{" "}
        <span className="dim light">
          {expected.told
            ? "good enough to be told to callers"
            : "not told: past estimates were too few, or too far off"}
        </span>
      </h2>
      <table className={styles.figures}>
        <thead>
          <tr>
            <th align="left">By</th>
            <th align="right">Scored</th>
            <th align="right">Error</th>
            <th align="right">Bias</th>
            <th align="right">In band</th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(expected.scores).map(([name, score]) => (
            <tr key={name} style={{ fontWeight: name === expected.best && score.scored ? 640 : 400 }}>
              <td>{estimators[name] ?? name}</td>
              <td className="num">{score.scored}</td>
              <td className="num">{seconds(score.error_s)}</td>
              <td className="num">{signed(score.bias_s)}</td>
              <td className="num">{score.scored ? percent(score.within / score.scored, 0) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
