import { MenuItem, TextField } from "@mui/material";
import { api, data, type Schemas } from "../../api/client";
import { Empty } from "../../frame/states";
import { ColumnsMenu } from "../shared/ColumnsMenu";
import { figure } from "./figures";
import { QueueField } from "./QueueField";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { TeamField } from "./TeamField";
import { periodOf, useAsked } from "./useAsked";
import { choices, useMeasures } from "./useMeasures";
import { useReport } from "./useReport";

type Report = Schemas["OwnReport"];

type Of = Schemas["Measure"]["of"];

/** What a row can be of, in words, and whose figures it has. */
const rowsOf: [string, string, Of][] = [
  ["queue", "Queues", "queues"],
  ["weekday", "Weekdays", "queues"],
  ["hour", "Hours of the day", "queues"],
  ["15", "15 minutes", "queues"],
  ["30", "30 minutes", "queues"],
  ["60", "Hours", "queues"],
  ["day", "Days", "queues"],
  ["week", "Weeks", "queues"],
  ["month", "Months", "queues"],
  ["agent", "Agents", "agents"],
  ["team", "Teams", "agents"],
  ["code", "Wrap-up codes", "codes"],
  ["number", "Numbers", "numbers"],
];
const ofRows = (rows: string): Of => rowsOf.find(([value]) => value === rows)?.[2] ?? "queues";

function Told({ report, first }: { report: Report; first: (key: string) => void }) {
  const [drawn] = report.columns;
  const most = Math.max(...report.rows.map((row) => (drawn && row.figures[drawn.key]) ?? 0), 0);
  const cells = (row: Report["total"]) =>
    report.columns.map((column) => (
      <td key={column.key} className="num">
        {figure(row.figures[column.key], column.unit)}
      </td>
    ));
  return (
    <section className={styles.block} aria-label="Rows">
      <table className={styles.plain}>
        <thead>
          <tr>
            <th scope="col">Row</th>
            <th aria-hidden="true" className={styles.partHead} />
            {report.columns.map((column) => (
              <th
                key={column.key}
                scope="col"
                className="num"
                title={`${column.name}: ${column.words}. A click draws it.`}>
                <button
                  type="button"
                  className={styles.head}
                  aria-pressed={column === drawn}
                  onClick={() => first(column.key)}>
                  {column.short}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {report.rows.map((row) => {
            const value = drawn ? row.figures[drawn.key] : null;
            return (
              <tr key={row.label}>
                <td>{row.label}</td>
                <td aria-hidden="true">
                  {value != null && most > 0 && (
                    <i className={styles.share} style={{ width: `${(100 * value) / most}%` }} />
                  )}
                </td>
                {cells(row)}
              </tr>
            );
          })}
        </tbody>
        <tfoot>
          <tr>
            <td>{report.total.label}</td>
            <td />
            {cells(report.total)}
          </tr>
        </tfoot>
      </table>
    </section>
  );
}

/** Chosen figures, by what one wants side by side; kept and sent as every report. */
export default function OwnReport() {
  const asked = useAsked();
  const rows = asked.get("rows") || "queue";
  const of = ofRows(rows);
  const narrowed = of === "agents" ? "team" : "queues";
  const named = Object.fromEntries(
    ["rows", "columns", ...(of === "numbers" ? [] : [narrowed])]
      .map((name) => [name, asked.get(name)])
      .filter(([, value]) => value),
  );
  const query = { ...named, ...periodOf(asked) } as object;
  const report = useReport("own", query, () => data(api.GET("/api/v1/reports/own", { params: { query } })));
  const measures = useMeasures(of) ?? [];
  const chosen = report.data?.columns.map((column) => column.key) ?? [];
  const choose = (next: string[]) => {
    asked.set({ columns: next.join(",") });
  };
  return (
    <ReportPage
      here="own"
      name="Put together"
      asked={asked}
      report={report}
      bare={() => "Chosen figures, side by side."}
      fields={
        <>
          <TextField
            select
            size="small"
            label="Rows"
            value={rows}
            sx={{ width: 160 }}
            onChange={(event) =>
              asked.set({ rows: event.target.value, ...(ofRows(event.target.value) !== of && { columns: "" }) })
            }>
            {rowsOf.map(([value, name]) => (
              <MenuItem key={value} value={value}>
                {name}
              </MenuItem>
            ))}
          </TextField>
          {of === "agents" ? <TeamField asked={asked} /> : of !== "numbers" && <QueueField asked={asked} />}
          <ColumnsMenu columns={choices(of, measures)} chosen={chosen} usual={[]} choose={choose} />
        </>
      }>
      {(told) =>
        told.rows.length === 0 ? (
          <Empty title="There is no such row">
            Nothing of these days is within what is asked for, or there is no queue yet.
          </Empty>
        ) : (
          <Told report={told} first={(key) => choose([key, ...chosen.filter((one) => one !== key)])} />
        )
      }
    </ReportPage>
  );
}
