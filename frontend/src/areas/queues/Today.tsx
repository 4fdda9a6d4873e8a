import { Link } from "react-router-dom";
import { clock, percent } from "../../frame/format";
import { sumOf } from "../reports/sumOf";
import type { FloorQueue } from "../floor/types";
import styles from "./queues.module.css";

/** Today's figures of a queue: every way out, adding up to those offered. */
export function Today({ id, queue }: { id: string; queue: FloorQueue | undefined }) {
  if (!queue) return <span className="dim">Today’s figures come with the exchange.</span>;
  const f = queue.figures;
  const parts: [string, number, string][] = [["answered", f.answered, "answered"], ["abandoned", f.abandoned, "abandoned"], ["left otherwise", f.left_otherwise, ""], ["waiting now", f.under_way, "under_way"], ["offered", f.offered, "offered"]];
  const rows: [string, string, string][] = [
    [`Service level ${queue.formula}, goal ${queue.goal_percent} %`, percent(f.service_level), "level"],
    ["Average wait in queue, answered", f.average_wait_ms === null ? "–" : clock(f.average_wait_ms), "wait_average"],
    ["Longest wait, answered", f.answered ? clock(f.longest_answered_ms) : "–", "wait_longest"],
    [`Answered after ${clock(queue.threshold_s * 1000)}`, String(f.answered_late), "answered_late"],
  ];
  return (
    <section aria-label="Today so far">
      <h2>Today so far <span className="dim" style={{ fontWeight: 400 }}>offered = every way out + waiting now</span></h2>
      <div className={styles.sum}>
        {parts.map(([name, value, sum], i) => <div key={name} className={i === parts.length - 1 ? styles.whole : undefined}><b>{sum ? <Link to={sumOf(sum, id)}>{value}</Link> : value}</b><span>{name}</span></div>)}
      </div>
      <table className={styles.figures}>
        <tbody>{rows.map(([name, value, sum]) => <tr key={name}><td>{name}</td><td className="num"><Link to={sumOf(sum, id)}>{value}</Link></td></tr>)}</tbody>
      </table>
      <p style={{ margin: "4px 0 0" }}><Link to={`/learn/reports/queues?period=28days&queues=${id}`}>The last 28 days</Link> · <Link to={`/learn/reports/hours?period=28days&queues=${id}`}>When it is busy</Link></p>
    </section>
  );
}

const estimators: Record<string, string> = { last: "wait of the last one taken", head: "wait of the first in line", rate: "line over recent pace", staff: "agents, handle time, patience" };

/** How long a caller who came now would wait, and how well each way of estimating it did. */
export function ExpectedWait({ queue }: { queue: FloorQueue | undefined }) {
  const expected = queue?.expected;
  if (!expected) return null;
  const seconds = (value: number | null) => (value === null ? "–" : clock(value * 1000));
  const signed = (value: number | null) => (value === null ? "–" : `${value < 0 ? "−" : "+"}${clock(Math.abs(value) * 1000)}`);
  return (
    <section aria-label="Expected wait">
      <h2>Expected wait {expected.seconds !== null && <b>{seconds(expected.seconds)}</b>} <span className="dim" style={{ fontWeight: 400 }}>{expected.told ? "good enough to be told to callers" : "not told: past estimates were too few, or too far off"}</span></h2>
      <table className={styles.figures}>
        <thead><tr><th align="left">By</th><th align="right">Scored</th><th align="right">Error</th><th align="right">Bias</th><th align="right">In band</th></tr></thead>
        <tbody>
          {Object.entries(expected.scores).map(([name, score]) => (
            <tr key={name} style={{ fontWeight: name === expected.best && score.scored ? 640 : 400 }}>
              <td>{estimators[name] ?? name}</td><td className="num">{score.scored}</td><td className="num">{seconds(score.error_s)}</td><td className="num">{signed(score.bias_s)}</td><td className="num">{score.scored ? percent(score.within / score.scored, 0) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
