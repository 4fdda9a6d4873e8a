import { MenuItem, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, daysBetween, percent } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure, Glyph, Loading } from "../../frame/states";
import { ColumnsMenu } from "../shared/ColumnsMenu";
import { formulaNames } from "../shared/formulas";
import { figure, isOneDay, rowName, type Unit } from "./figures";
import { PeriodField } from "./PeriodField";
import { ChartLegend, QueueChart } from "./QueueChart";
import styles from "./reports.module.css";
import { ReportTabs } from "./ReportTabs";
import { QueueField } from "./QueueField";
import { type Opened, sumOfQueues, SumPanel } from "./SumPanel";
import { periodOf, useAsked } from "./useAsked";
import { choices, useMeasures } from "./useMeasures";

type Report = Schemas["QueueReport"];
type Row = Schemas["FigureRow"];
type Formula = keyof typeof formulaNames;

const rowLengths: Record<string, string> = {
  "15": "By quarter-hours",
  "30": "By half hours",
  "60": "By hours",
  day: "By days",
  week: "By weeks",
  month: "By months",
};
const usual = [
  "offered",
  "answered",
  "abandoned",
  "messages",
  "callbacks",
  "elsewhere",
  "ended",
  "under_way",
  "answered_late",
  "abandoned_late",
  "level",
  "wait_average",
  "wait_longest",
  "handle_average",
];
/** Each of these is one of those offered. */
const ways = new Set(["answered", "abandoned", "messages", "callbacks", "elsewhere", "ended", "under_way"]);
const FRESH_MS = 30_000;
const KEPT = "hazeridge.report.columns";

function useColumns() {
  const [chosen, setChosen] = useState<string[]>(() => {
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "null");
      return Array.isArray(kept) ? kept.filter((one) => typeof one === "string") : usual;
    } catch {
      return usual;
    }
  });
  const choose = (next: string[]) => {
    setChosen(next);
    localStorage.setItem(KEPT, JSON.stringify(next));
  };
  return { chosen, choose };
}

interface Column {
  key: string;
  short: string;
  unit: Unit;
  adds: Schemas["Measure"]["adds"];
  tip: string;
}

function columnsOf(measures: Schemas["Measure"][], formula: Formula | "", chosen: string[]): Column[] {
  const level: Column = {
    key: "level",
    short: `Level${formula ? ` ${formulaNames[formula]}` : ""}`,
    unit: "share",
    adds: "parts",
    tip: "By the formula that the queue has chosen.",
  };
  const all = [
    ...measures.map((m) => ({
      key: m.key,
      short: m.short,
      unit: m.unit,
      adds: m.adds,
      tip: `${m.sentence} = ${m.formula}`,
    })),
  ];
  all.splice(
    all.findIndex((one) => one.key.startsWith("level_")),
    0,
    level,
  );
  return all.filter((one) => chosen.includes(one.key));
}

const totals: Record<string, string> = { sum: "sum", longest: "longest", parts: "from parts" };

function Figures({
  row,
  columns,
  open,
  opened,
}: {
  row: Row;
  columns: Column[];
  open: (key: string) => void;
  opened: Opened | null;
}) {
  return (
    <>
      {columns.map((column) => {
        const value = row.figures[column.key];
        const below = column.key === "level" && row.below_goal;
        const here = opened?.figure === column.key && opened.begin_ms === row.begin_ms && opened.end_ms === row.end_ms;
        return (
          <td
            key={column.key}
            className={`num ${here ? styles.openedCell : ""} ${value === 0 && column.unit === "count" ? styles.zero : ""}`}>
            <button
              type="button"
              className={below ? styles.below : styles.figure}
              onClick={() => open(column.key)}
              aria-label={`${column.short}: ${figure(value, column.unit)}`}>
              {below && <Glyph name="peak" colour="var(--plum)" />}
              {figure(value, column.unit)}
            </button>
          </td>
        );
      })}
    </>
  );
}

function Head({ columns }: { columns: Column[] }) {
  return (
    <thead>
      <tr>
        <th scope="col">From</th>
        {columns.map((column) => (
          <th key={column.key} scope="col" className="num" title={column.tip}>
            {ways.has(column.key) && <i>{column.key === "answered" ? "=\u00a0" : "+\u00a0"}</i>}
            {column.short}
          </th>
        ))}
      </tr>
    </thead>
  );
}

function Change({ now, before }: { now: number | null | undefined; before: number | null | undefined }) {
  if (now == null || before == null) return <>–</>;
  const points = (now - before) * 100;
  return (
    <>
      {points >= 0 ? "+" : "−"}
      {Math.abs(points).toFixed(1)} pt
    </>
  );
}

/** What was counted as late, told beside the title. */
function limitsOf(report: Report): string {
  const told = report.limits.map(
    (limit) => `level ${formulaNames[limit.formula]}, threshold ${clock(limit.threshold_ms)}`,
  );
  const goal = report.goal === null ? "" : `, goal ${percent(report.goal, 0)}`;
  return told.length > 1 ? `by each queue’s or day’s own formula and threshold${goal}` : `${told[0] ?? ""}${goal}`;
}

/** The rows with their totals, and the period before. */
function Rows({
  report,
  by,
  columns,
  opened,
  open,
}: {
  report: Report;
  by: string;
  columns: Column[];
  opened: Opened | null;
  open: (row: Row, title: string) => (key: string) => void;
}) {
  const { session } = useSession();
  const zone = session.time_zone;
  const shared = { columns, opened };
  const { total, before } = report;
  return (
    <div className={styles.tableBox}>
      <table className={styles.table}>
        <Head columns={columns} />
        <tbody>
          {report.rows.map((row) => {
            const name = rowName(row.begin_ms, row.end_ms, by, zone, isOneDay(report.begin_ms, report.end_ms));
            return (
              <tr
                key={row.begin_ms}
                className={
                  opened?.begin_ms === row.begin_ms && opened.end_ms === row.end_ms ? styles.openedRow : undefined
                }>
                <th scope="row">
                  {name}
                  {row.running && <span className={styles.running}> so far</span>}
                </th>
                <Figures {...shared} row={row} open={open(row, name)} />
              </tr>
            );
          })}
        </tbody>
        <tfoot>
          <tr>
            <th scope="row">All of it</th>
            <Figures {...shared} row={total} open={open(total, daysBetween(total.begin_ms, total.end_ms, zone))} />
          </tr>
          <tr className={styles.how}>
            <td>how it adds up</td>
            {columns.map((column) => (
              <td key={column.key} className="num">
                {totals[column.adds]}
              </td>
            ))}
          </tr>
          <tr className={styles.how}>
            <td>{daysBetween(before.begin_ms, before.end_ms, zone)}</td>
            {columns.map((column) => (
              <td key={column.key} className="num">
                {figure(before.figures[column.key], column.unit)}
              </td>
            ))}
          </tr>
        </tfoot>
      </table>
    </div>
  );
}

function useReport(query: { by: "day" }) {
  const measures = useMeasures("queues");
  const report = useQuery({
    queryKey: keys.list("report-queues", query),
    queryFn: () => data(api.GET("/api/v1/reports/queues", { params: { query } })),
    placeholderData: keepPreviousData,
    refetchInterval: FRESH_MS,
  });
  return { measures, report };
}

function Told({
  report,
  measures,
  chosen,
  by,
  queue,
  opened,
  setOpened,
}: {
  report: Report;
  measures: Schemas["Measure"][];
  chosen: string[];
  by: string;
  queue: string;
  opened: Opened | null;
  setOpened: (opened: Opened) => void;
}) {
  const { session } = useSession();
  const zone = session.time_zone;
  const columns = columnsOf(measures, report.limits.length === 1 ? (report.limits[0]?.formula ?? "") : "", chosen);
  const name = report.queues[0]?.name ?? "all queues";
  const open = (row: Row, title: string) => (key: string) => {
    setOpened({ figure: key, begin_ms: row.begin_ms, end_ms: row.end_ms, title: `${title}, ${name}` });
  };
  return (
    <>
      <p className={styles.sentence}>
        {report.sentence || `Nobody came into ${queue ? name : "any queue"} in these days.`}{" "}
        <span className="dim">
          {daysBetween(report.begin_ms, report.end_ms, zone)} · {limitsOf(report)}
        </span>
      </p>
      {report.total.figures.offered ? (
        <>
          <QueueChart
            rows={report.rows}
            by={by}
            zone={zone}
            goal={report.goal}
            chosen={opened?.begin_ms ?? null}
            choose={(row) => open(row, rowName(row.begin_ms, row.end_ms, by, zone))("level")}
          />
          <Rows report={report} by={by} columns={columns} opened={opened} open={open} />
          <div className={styles.foot}>
            <ChartLegend goal={report.goal} />
            <span className="fill" />
            <span className="dim">
              Level against the days before:{" "}
              <Change now={report.total.figures.level} before={report.before.figures.level} />
            </span>
          </div>
        </>
      ) : (
        <Empty title="Nothing to show for these days">
          Choose other days or another queue. What happens from now on is counted within seconds.
        </Empty>
      )}
    </>
  );
}

/** How a queue did, row by row, every figure open. */
export default function QueueReport() {
  const asked = useAsked();
  const { chosen, choose } = useColumns();
  const [opened, setOpened] = useState<Opened | null>(null);
  const by = asked.get("by") || "day";
  const queue = asked.get("queues");
  const period = periodOf(asked);
  const query = { ...period, by, ...(queue && { queues: queue }) } as { by: "day" };
  const { measures, report } = useReport(query);
  const sum = asked.get("sum");
  const whole = report.data?.total;
  const shown =
    opened ??
    (sum && whole
      ? {
          figure: sum,
          begin_ms: whole.begin_ms,
          end_ms: whole.end_ms,
          title: report.data?.queues[0]?.name ?? "all queues",
        }
      : null);
  const open = (next: Opened | null) => {
    setOpened(next);
    if (sum) asked.set({ sum: "" });
  };
  return (
    <section className={styles.page} aria-label="Queues, a report">
      <div className={styles.main}>
        <ReportTabs here="queues" />
        <div className={styles.bar}>
          <QueueField asked={asked} changed={() => open(null)} />
          <PeriodField asked={asked} />
          <TextField
            select
            size="small"
            label="Rows"
            value={by}
            sx={{ width: 150 }}
            onChange={(event) => {
              setOpened(null);
              asked.set({ by: event.target.value, sum: "" });
            }}>
            {Object.entries(rowLengths).map(([value, label]) => (
              <MenuItem key={value} value={value}>
                {label}
              </MenuItem>
            ))}
          </TextField>
          <span className="fill" />
          <ColumnsMenu columns={choices("queues", measures ?? [])} chosen={chosen} usual={usual} choose={choose} />
        </div>
        {report.isError ? (
          <Failure error={report.error} retry={() => void report.refetch()} />
        ) : !report.data || !measures ? (
          <Loading what="the report" />
        ) : (
          <Told
            report={report.data}
            measures={measures}
            chosen={chosen}
            by={by}
            queue={queue}
            opened={shown}
            setOpened={open}
          />
        )}
      </div>
      {shown && (
        <SumPanel
          key={`${shown.figure} ${shown.begin_ms} ${shown.end_ms}`}
          opened={shown}
          of={sumOfQueues(shown, queue, period as Record<string, string>)}
          close={() => open(null)}
        />
      )}
    </section>
  );
}
