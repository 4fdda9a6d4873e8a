import { IconButton } from "@mui/material";
import { type ReactNode, useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { clock, counted, percent, timeOfDay } from "../../frame/format";
import { useSession } from "../../frame/session";
import { agentStates, Empty, Failure, Loading } from "../../frame/states";
import { figure } from "./figures";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { sumOfAgents, SumPanel } from "./SumPanel";
import { TeamField } from "./TeamField";
import { periodOf, useAsked } from "./useAsked";
import { useMeasures } from "./useMeasures";
import { useReport } from "./useReport";

type Row = Schemas["AgentRow"];

/** What is opened of an agent, or of all of them: their day, or the sum behind a figure. */
interface OpenedAgent {
  row: Row;
  figure: string;
}

const DAY_MS = 26 * 3_600_000;
/** The figures after the states, each of which opens. */
const shown = ["occupancy", "legs", "handle_average_ms", "hold_ms", "handed_on", "missed", "coded_share"];
/** As on the floor: by fill, not by the colours of a traffic light. */
const fills: Record<string, string> = {
  available: "var(--haze-1)",
  ringing: "var(--clay)",
  on_contact: "var(--pine)",
  wrapping: "repeating-linear-gradient(120deg, var(--ochre) 0 3px, transparent 3px 5px)",
  away: "var(--slate-soft)",
};
const states = ["on_contact", "wrapping", "ringing", "available", "away"] as const;

function States({ row }: { row: Row }) {
  if (!row.signed_in_ms) return null;
  const told = states.map((state) => `${agentStates[state]?.word}: ${clock(row[`${state}_ms`])}`).join(", ");
  return (
    <span className={styles.states} title={told} role="img" aria-label={told}>
      {states.map((state) => (
        <i
          key={state}
          style={{ width: `${(100 * row[`${state}_ms`]) / row.signed_in_ms}%`, background: fills[state] }}
        />
      ))}
    </span>
  );
}

function Cells({
  row,
  opened,
  name,
  open,
}: {
  row: Row;
  opened: string;
  name: (figure: string) => string;
  open: (figure: string) => void;
}) {
  const cell = (key: string, told: ReactNode) => (
    <td key={key} className={`num ${opened === key ? styles.openedCell : ""}`}>
      <button
        type="button"
        className={styles.figure}
        onClick={() => open(key)}
        aria-label={`${name(key)}, ${row.name || "all of them"}`}>
        {told}
      </button>
    </td>
  );
  return (
    <>
      {cell("signed_in_ms", clock(row.signed_in_ms))}
      <td>
        <States row={row} />
      </td>
      {cell("occupancy", percent(row.occupancy, 0))}
      {cell("legs", counted(row.legs))}
      {cell("handle_average_ms", figure(row.handle_average_ms, "ms"))}
      {cell("hold_ms", clock(row.hold_ms))}
      {cell("handed_on", row.handed_on)}
      {cell(
        "missed",
        <>
          {row.missed}
          {row.missed_share !== null && row.missed_share > 0 && (
            <span className="dim"> · {percent(row.missed_share, 0)}</span>
          )}
        </>,
      )}
      {cell("coded_share", percent(row.coded_share, 0))}
    </>
  );
}

function TimeLine({ spans, begin, end }: { spans: Schemas["StateSpan"][]; begin: number; end: number }) {
  const { session } = useSession();
  const first = Math.min(...spans.map((span) => span.from_ms)),
    last = Math.max(...spans.map((span) => span.until_ms));
  const from = Math.max(begin, Math.floor(first / 3_600_000) * 3_600_000),
    until = Math.min(end, Math.ceil(last / 3_600_000) * 3_600_000);
  const at = (ms: number) => (100 * (ms - from)) / (until - from);
  return (
    <div role="img" aria-label="States over the day">
      <div className={styles.line}>
        {spans.map((span) => (
          <i
            key={span.from_ms}
            title={`${timeOfDay(span.from_ms, session.time_zone)} ${agentStates[span.status]?.word}${span.reason ? `, ${span.reason}` : ""}: ${clock(span.until_ms - span.from_ms)}`}
            style={{
              left: `${at(span.from_ms)}%`,
              width: `${at(span.until_ms) - at(span.from_ms)}%`,
              background: fills[span.status],
            }}
          />
        ))}
      </div>
      <div className={styles.lineHours}>
        <span>{timeOfDay(from, session.time_zone).slice(0, 5)}</span>
        <span>{timeOfDay(until, session.time_zone).slice(0, 5)}</span>
      </div>
    </div>
  );
}

function Sum({ row }: { row: Row }) {
  return (
    <table className={styles.sumTable}>
      <tbody>
        {states.map((state, place) => (
          <tr key={state}>
            <td>{place ? "+" : ""}</td>
            <td>{agentStates[state]?.word}</td>
            <td className="num">{clock(row[`${state}_ms`])}</td>
          </tr>
        ))}
        <tr className={styles.sumLine}>
          <td>=</td>
          <td>Signed in</td>
          <td className="num">{clock(row.signed_in_ms)}</td>
        </tr>
        <tr>
          <td colSpan={2} className="dim">
            Occupancy: on contact and wrapping up, of these and available and ringing
          </td>
          <td className="num">{percent(row.occupancy)}</td>
        </tr>
      </tbody>
    </table>
  );
}

const told: Record<string, (about: string) => string> = {
  available: () => "made them available",
  away: (about) => `set them away: ${about}`,
  sign_out: () => "ended their work",
  serve: (about) => (about ? `had them serve ${about} too` : "had them serve their own queues only"),
  say: (about) => `wrote: ${about}`,
};

/** What supervisors had an agent do, and what they wrote to each other. */
function Told({ rows }: { rows: Schemas["AgentTold"][] }) {
  const { session } = useSession();
  return (
    <>
      <h3>On the floor</h3>
      <table className={styles.sumTable}>
        <tbody>
          {rows.map((one) => (
            <tr key={`${one.at_ms} ${one.about}`}>
              <td className="dim num">{timeOfDay(one.at_ms, session.time_zone).slice(0, 5)}</td>
              <td colSpan={2}>
                <b>{one.by}</b> {told[one.act]?.(one.about) ?? one.act}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Day({
  row,
  query,
  begin,
  end,
  close,
}: {
  row: Row;
  query: object;
  begin: number;
  end: number;
  close: () => void;
}) {
  const day = useReport("agent-day", { ...query, agent: row.agent }, () =>
    data(api.GET("/api/v1/reports/agents/{id}/day", { params: { path: { id: row.agent }, query } })),
  );
  return (
    <aside className={styles.panel} aria-label={`The day of ${row.name}`}>
      <div className={styles.panelHead}>
        <b className={styles.big}>{row.name}</b>
        <span className="fill" />
        <IconButton size="small" aria-label="Close the day" onClick={close}>
          ✕
        </IconButton>
      </div>
      {day.isError ? (
        <Failure error={day.error} retry={() => void day.refetch()} />
      ) : !day.data ? (
        <Loading what="the day" />
      ) : (
        <div className={styles.panelBody}>
          {end - begin < DAY_MS && day.data.spans.length > 0 && (
            <TimeLine spans={day.data.spans} begin={begin} end={end} />
          )}
          <h3>Where the time went</h3>
          <Sum row={day.data.row ?? row} />
          {day.data.reasons.length > 0 && (
            <>
              <h3>Away for</h3>
              <table className={styles.sumTable}>
                <tbody>
                  {day.data.reasons.map((one) => (
                    <tr key={one.reason}>
                      <td />
                      <td>{one.reason}</td>
                      <td className="num">{clock(one.ms)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
          <h3>Contacts by queue</h3>
          <table className={styles.plain}>
            <thead>
              <tr>
                <th>Queue</th>
                <th className="num">Parts</th>
                <th className="num">Talk</th>
                <th className="num">Hold</th>
                <th className="num">Wrap-up</th>
              </tr>
            </thead>
            <tbody>
              {day.data.queues.map((one) => (
                <tr key={one.name}>
                  <td>{one.name}</td>
                  <td className="num">{one.legs}</td>
                  <td className="num">{clock(one.talk_ms)}</td>
                  <td className="num">{clock(one.hold_ms)}</td>
                  <td className="num">{clock(one.wrap_ms)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {day.data.told.length > 0 && <Told rows={day.data.told} />}
          <h3>Codes</h3>
          <table className={styles.sumTable}>
            <tbody>
              {day.data.codes.map((one) => (
                <tr key={one.name}>
                  <td />
                  <td className={one.name === "No code" ? styles.noCode : undefined}>{one.name}</td>
                  <td className="num">{one.legs}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </aside>
  );
}

/** What agents did with their time, and with the contacts. */
export default function AgentsReport() {
  const asked = useAsked();
  const measures = useMeasures("agents");
  const [opened, setOpened] = useState<OpenedAgent | null>(null);
  const close = () => {
    setOpened(null);
  };
  const team = asked.get("team");
  const period = periodOf(asked) as object;
  const query = { ...period, ...(team && { team }) };
  const report = useReport("agents", query, () => data(api.GET("/api/v1/reports/agents", { params: { query } })));
  const told = report.data;
  const aside =
    opened &&
    told &&
    (opened.figure ? (
      <SumPanel
        key={`${opened.row.agent} ${opened.figure}`}
        close={close}
        of={sumOfAgents(opened.figure, opened.row.agent, query)}
        opened={{
          figure: opened.figure,
          begin_ms: told.begin_ms,
          end_ms: told.end_ms,
          title: opened.row.name || "all of them",
        }}
      />
    ) : (
      <Day row={opened.row} query={period} begin={told.begin_ms} end={told.end_ms} close={close} />
    ));
  const measure = (key: string) => measures?.find((one) => one.key === key);
  const head = (key: string) => (
    <th key={key} className="num" title={`${measure(key)?.sentence ?? ""} ${measure(key)?.formula ?? ""}`}>
      {measure(key)?.short}
    </th>
  );
  const cells = (row: Row) => (
    <Cells
      row={row}
      opened={opened?.row.agent === row.agent ? opened.figure : ""}
      name={(key) => measure(key)?.name ?? key}
      open={(key) => setOpened({ row, figure: key })}
    />
  );
  return (
    <ReportPage
      here="agents"
      name="Agents"
      asked={asked}
      report={report}
      fields={<TeamField asked={asked} changed={close} />}
      aside={aside}
      bare={(all) =>
        all.rows.length
          ? `${all.rows.length} agents were there, ${percent(all.total.occupancy, 0)} of their ready time with contacts.`
          : "Nobody was there in these days."
      }>
      {(all) =>
        all.rows.length === 0 ? (
          <Empty title="Nothing to show for these days">Agents’ states are counted from the moment they sign in.</Empty>
        ) : (
          <div className={styles.tableBox}>
            <table className={styles.table}>
              <thead>
                <tr>
                  <th>Agent</th>
                  {!opened && <th>Team</th>}
                  {head("signed_in_ms")}
                  <th>Of it: on contact, wrapping up, ringing, available, away</th>
                  {shown.map(head)}
                </tr>
              </thead>
              <tbody>
                {all.rows.map((row) => (
                  <tr key={row.agent} className={opened?.row.agent === row.agent ? styles.openedRow : undefined}>
                    <th scope="row">
                      <button type="button" className={styles.figure} onClick={() => setOpened({ row, figure: "" })}>
                        {row.name}
                      </button>
                    </th>
                    {!opened && <td className="dim">{row.team}</td>}
                    {cells(row)}
                  </tr>
                ))}
              </tbody>
              <tfoot>
                <tr>
                  <th scope="row">All of them</th>
                  {!opened && <td />}
                  {cells(all.total)}
                </tr>
              </tfoot>
            </table>
          </div>
        )
      }
    </ReportPage>
  );
}
