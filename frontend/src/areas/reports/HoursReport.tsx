import { api, data, type Schemas } from "../../api/client";
import { clock, counted, percent } from "../../frame/format";
import { Empty } from "../../frame/states";
import { QueueField } from "./QueueField";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { periodOf, useAsked } from "./useAsked";
import { useReport } from "./useReport";

type Report = Schemas["HoursReport"];
type Cell = Report["cells"][number];

const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
/** The fuller the greater the share, as far as words on it can be read by day and by night. */
const mix = (share: number, colour: string) =>
  `color-mix(in srgb, ${colour} ${Math.round(5 + 40 * share)}%, var(--sheet))`;

function Week({
  name,
  note,
  report,
  fill,
  told,
}: {
  name: string;
  note: string;
  report: Report;
  fill: (cell: Cell) => string;
  told: (cell: Cell) => string;
}) {
  const cells = new Map(report.cells.map((cell) => [`${cell.weekday} ${cell.hour}`, cell]));
  return (
    <section aria-label={name}>
      <h2>
        {name} <span className="dim">{note}</span>
      </h2>
      <table className={styles.heat}>
        <thead>
          <tr>
            <th />
            {Array.from({ length: 24 }, (_, hour) => (
              <th key={hour}>{String(hour).padStart(2, "0")}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {days.map((day, weekday) => (
            <tr key={day}>
              <th scope="row">{day}</th>
              {Array.from({ length: 24 }, (_, hour) => {
                const cell = cells.get(`${weekday} ${hour}`);
                return (
                  <td
                    key={hour}
                    title={
                      cell &&
                      `${day} ${hour}:00: ${cell.offered} offered, ${cell.a_day.toFixed(1)} a day, ${percent(cell.level)} in time, ${cell.abandoned} abandoned`
                    }
                    style={{ background: cell?.offered ? fill(cell) : "var(--line-2)", fontSize: 11 }}>
                    {cell?.offered ? told(cell) : ""}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Waits({ report }: { report: Report }) {
  const last = Math.max(
    4,
    ...report.answered.map((count, at) => (count ? at : 0)),
    ...report.abandoned.map((count, at) => (count ? at : 0)),
  );
  const most = Math.max(1, ...report.answered, ...report.abandoned);
  const rows = Array.from({ length: last + 1 }, (_, at) => at);
  const ends = report.answered.length - 1;
  return (
    <section aria-label="How long they waited">
      <h2>
        How long they waited <span className="dim">those who were answered, and those who hung up waiting</span>
      </h2>
      <table className={styles.plain}>
        <thead>
          <tr>
            <th>Waited</th>
            <th className="num">Answered</th>
            <th />
            <th className="num">Abandoned</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((at) => (
            <tr key={at}>
              <td className={styles.codeName}>
                {at === ends
                  ? `over ${clock(at * report.bin_ms)}`
                  : `${clock(at * report.bin_ms)} – ${clock((at + 1) * report.bin_ms)}`}
              </td>
              <td className="num">{counted(report.answered[at])}</td>
              <td className={styles.third}>
                <i className={styles.share} style={{ width: `${(100 * (report.answered[at] ?? 0)) / most}%` }} />
              </td>
              <td className="num">{counted(report.abandoned[at])}</td>
              <td className={styles.third}>
                <i
                  className={styles.share}
                  data-tone="late"
                  style={{ width: `${(100 * (report.abandoned[at] ?? 0)) / most}%` }}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** When it is busy, when the goal is missed, and how long people wait before they give up. */
export default function HoursReport() {
  const asked = useAsked();
  const queue = asked.get("queues");
  const query = { ...periodOf(asked), ...(queue && { queues: queue }) } as object;
  const report = useReport("hours", query, () => data(api.GET("/api/v1/reports/hours", { params: { query } })));
  const busiest = Math.max(1, ...(report.data?.cells.map((cell) => cell.a_day) ?? []));
  const low = Math.min(0.9, ...(report.data?.cells.flatMap((cell) => (cell.level === null ? [] : [cell.level])) ?? []));
  const short = (goal: number | null) => (cell: Cell) =>
    cell.level === null
      ? "var(--line-2)"
      : goal !== null && cell.below_goal
        ? mix(Math.min(1, (goal - cell.level) / Math.max(0.01, goal - low)), "var(--plum)")
        : mix(0.35 * cell.level, "var(--fern)");
  return (
    <ReportPage
      here="hours"
      name="When it is busy"
      asked={asked}
      report={report}
      bare={() => "Nobody came into a queue in these days."}
      fields={<QueueField asked={asked} />}>
      {(told) =>
        !told.cells.some((cell) => cell.offered) ? (
          <Empty title="Nothing to show for these days">Choose other days or another queue.</Empty>
        ) : (
          <div className={`${styles.two} ${styles.weekAndDay}`}>
            <div tabIndex={0} role="region" aria-label="By hour and weekday">
              <Week
                name="Contacts"
                note="that came in an hour, on average of these weekdays"
                report={told}
                fill={(cell) => mix(cell.a_day / busiest, "var(--pine-70)")}
                told={(cell) => String(Math.round(cell.a_day))}
              />
              <Week
                name="Service level"
                note={
                  told.goal === null ? "in percent" : `in percent; below the goal of ${percent(told.goal, 0)} in plum`
                }
                report={told}
                fill={short(told.goal)}
                told={(cell) => (cell.level === null ? "–" : (cell.level * 100).toFixed(0))}
              />
            </div>
            <div tabIndex={0} role="region" aria-label="Waits">
              <Waits report={told} />
            </div>
          </div>
        )
      }
    </ReportPage>
  );
}
