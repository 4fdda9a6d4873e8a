import { api, data, type Schemas } from "../../api/client";
import { clock, counted, percent } from "../../frame/format";
import { Empty } from "../../frame/states";
import { figure } from "./figures";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { periodOf, useAsked } from "./useAsked";
import { useReport } from "./useReport";

type Report = Schemas["UsageReport"];

const count = (value: number) => (value ? counted(value) : <span className={styles.zero}>0</span>);
const ends = ["person", "hung_up", "message", "callback", "elsewhere", "ended"] as const;

function Numbers({ rows, total }: { rows: Report["numbers"]; total: Report["numbers_total"] }) {
  const most = Math.max(1, ...rows.map((row) => row.arrived));
  return (
    <section className={styles.block} aria-label="Numbers">
      <h2>
        Numbers <span className="dim">contacts by when they arrived, and how they ended</span>
      </h2>
      <table className={styles.plain}>
        <thead>
          <tr>
            <th>Number</th>
            <th>Label</th>
            <th className="num">Contacts</th>
            <th className={styles.usageHead} />
            <th className="num">With a person</th>
            <th className="num">Hung up</th>
            <th className="num">Message</th>
            <th className="num">Callback</th>
            <th className="num">Sent elsewhere</th>
            <th className="num">Ended by us</th>
            <th className="num">Lasted, average</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.address}>
              <td title={row.address}>{row.number}</td>
              <td>{row.label}</td>
              <td className="num">{count(row.arrived)}</td>
              <td>
                <i className={styles.share} style={{ width: `${(100 * row.arrived) / most}%` }} />
              </td>
              {ends.map((end) => (
                <td key={end} className="num">
                  {count(row[end])}
                </td>
              ))}
              <td className="num">{figure(row.average_ms, "ms")}</td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <td>All</td>
            <td />
            <td className="num">{count(total.arrived)}</td>
            <td />
            {ends.map((end) => (
              <td key={end} className="num">
                {count(total[end])}
              </td>
            ))}
            <td className="num">{figure(total.average_ms, "ms")}</td>
          </tr>
        </tfoot>
      </table>
    </section>
  );
}

function Table({
  name,
  heads,
  rows,
  none,
}: {
  name: string;
  heads: string[];
  rows: (string | number)[][];
  none: string;
}) {
  return (
    <section className={styles.block} aria-label={name}>
      <h2>{name}</h2>
      {rows.length === 0 ? (
        <p className={`dim ${styles.intro}`}>{none}</p>
      ) : (
        <table className={`${styles.plain} ${styles.narrow}`}>
          <thead>
            <tr>
              {heads.map((head, at) => (
                <th key={head} className={at ? "num" : undefined}>
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={String(row[0])}>
                {row.map((cell, at) => (
                  <td key={heads[at]} className={at ? "num" : undefined}>
                    {typeof cell === "number" ? count(cell) : cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** What is used, and how much of it. */
export default function UsageReport() {
  const asked = useAsked();
  const query = periodOf(asked) as object;
  const report = useReport("usage", query, () => data(api.GET("/api/v1/reports/usage", { params: { query } })));
  const sentence = (told: Report) => {
    const used = told.numbers.filter((row) => row.arrived);
    return used.length
      ? `${used.length} of ${told.numbers.length} numbers were called; ${told.diversions ? `${counted(told.diversions)} contacts were diverted.` : "nothing was diverted."}`
      : "Nobody called in these days.";
  };
  return (
    <ReportPage here="usage" name="Numbers and callbacks" asked={asked} report={report} bare={sentence}>
      {(told) =>
        told.numbers.length === 0 ? (
          <Empty title="There is no number yet">
            Numbers, callbacks, mailboxes and outside lines are counted here as they are used.
          </Empty>
        ) : (
          <>
            <Numbers rows={told.numbers} total={told.numbers_total} />
            <Table
              name="Callbacks"
              heads={["Queue", "Booked", "Reached", "Not reached", "Cancelled", "Until reached, average"]}
              none="No callback was booked."
              rows={told.callbacks.map((row) => [
                row.queue_name,
                row.booked,
                row.reached,
                row.not_reached,
                row.cancelled,
                figure(row.until_reached_ms, "ms"),
              ])}
            />
            <Table
              name="Waits that callers were told of"
              heads={["Queue", "Told", "Came as told", "Sooner", "Later", "As told", "Off by, average", "Most"]}
              none="No caller was told how long it takes."
              rows={told.told_waits.map((row) => [
                row.queue_name,
                row.told,
                percent(row.as_told_share),
                row.sooner,
                row.later,
                row.as_told,
                figure(row.off_ms, "ms"),
                clock(row.off_longest_ms),
              ])}
            />
            <Table
              name="Messages"
              heads={["Mailbox", "Messages", "Length, average", "Longest"]}
              none="No message was left."
              rows={told.mailboxes.map((row) => [
                row.name,
                row.messages,
                figure(row.average_ms, "ms"),
                clock(row.longest_ms),
              ])}
            />
            <Table
              name="Outside lines"
              heads={["Number", "Rung", "Answered", "Spoken"]}
              none="No outside number was rung."
              rows={told.outside.map((row) => [row.number, row.rung, row.answered, clock(row.talk_ms)])}
            />
          </>
        )
      }
    </ReportPage>
  );
}
