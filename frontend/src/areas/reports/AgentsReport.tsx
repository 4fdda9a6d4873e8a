import { IconButton, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, percent, timeOfDay } from "../../frame/format";
import { useSession } from "../../frame/session";
import { agentStates, Empty, Failure, Loading } from "../../frame/states";
import { figure } from "./figures";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { periodOf, useAsked } from "./useAsked";
import { useReport } from "./useReport";

type Row = Schemas["AgentRow"];

const DAY_MS = 26 * 3_600_000;
const MOST = { page_size: 500 };
/** As on the floor: by fill, not by the colours of a traffic light. */
const fills: Record<string, string> = {
  available: "var(--haze-1)", ringing: "var(--clay)", on_contact: "var(--pine)", wrapping: "repeating-linear-gradient(120deg, var(--ochre) 0 3px, transparent 3px 5px)", away: "var(--slate-soft)",
};
const states = ["on_contact", "wrapping", "ringing", "available", "away"] as const;

function States({ row }: { row: Row }) {
  if (!row.signed_in_ms) return null;
  const told = states.map((state) => `${agentStates[state]?.word}: ${clock(row[`${state}_ms`])}`).join(", ");
  return <span className={styles.states} title={told} role="img" aria-label={told}>{states.map((state) => <i key={state} style={{ width: `${(100 * row[`${state}_ms`]) / row.signed_in_ms}%`, background: fills[state] }} />)}</span>;
}

function Cells({ row }: { row: Row }) {
  return (
    <>
      <td className="num">{clock(row.signed_in_ms)}</td>
      <td><States row={row} /></td>
      <td className="num">{percent(row.occupancy, 0)}</td>
      <td className="num">{row.legs.toLocaleString("en-GB")}</td>
      <td className="num">{figure(row.handle_average_ms, "ms")}</td>
      <td className="num">{clock(row.hold_ms)}</td>
      <td className="num">{row.handed_on}</td>
      <td className="num">{row.missed}{row.missed_share !== null && row.missed_share > 0 && <span className="dim"> · {percent(row.missed_share, 0)}</span>}</td>
      <td className="num">{percent(row.coded_share, 0)}</td>
    </>
  );
}

function TimeLine({ spans, begin, end }: { spans: Schemas["StateSpan"][]; begin: number; end: number }) {
  const { session } = useSession();
  const first = Math.min(...spans.map((span) => span.from_ms)), last = Math.max(...spans.map((span) => span.until_ms));
  const from = Math.max(begin, Math.floor(first / 3_600_000) * 3_600_000), until = Math.min(end, Math.ceil(last / 3_600_000) * 3_600_000);
  const at = (ms: number) => (100 * (ms - from)) / (until - from);
  return (
    <div role="img" aria-label="States over the day">
      <div className={styles.line}>
        {spans.map((span) => <i key={span.from_ms} title={`${timeOfDay(span.from_ms, session.time_zone)} ${agentStates[span.status]?.word}${span.reason ? `, ${span.reason}` : ""}: ${clock(span.until_ms - span.from_ms)}`} style={{ left: `${at(span.from_ms)}%`, width: `${at(span.until_ms) - at(span.from_ms)}%`, background: fills[span.status] }} />)}
      </div>
      <div className={styles.lineHours}><span>{timeOfDay(from, session.time_zone).slice(0, 5)}</span><span>{timeOfDay(until, session.time_zone).slice(0, 5)}</span></div>
    </div>
  );
}

function Sum({ row }: { row: Row }) {
  return (
    <table className={styles.sumTable}>
      <tbody>
        {states.map((state, place) => <tr key={state}><td>{place ? "+" : ""}</td><td>{agentStates[state]?.word}</td><td className="num">{clock(row[`${state}_ms`])}</td></tr>)}
        <tr className={styles.sumLine}><td>=</td><td>Signed in</td><td className="num">{clock(row.signed_in_ms)}</td></tr>
        <tr><td colSpan={2} className="dim">Occupancy: on contact and wrapping up, of these and available and ringing</td><td className="num">{percent(row.occupancy)}</td></tr>
      </tbody>
    </table>
  );
}

function Day({ row, query, begin, end, close }: { row: Row; query: object; begin: number; end: number; close: () => void }) {
  const day = useReport("agent-day", { ...query, agent: row.agent }, () => data(api.GET("/api/v1/reports/agents/{id}/day", { params: { path: { id: row.agent }, query } })));
  return (
    <aside className={styles.panel} aria-label={`The day of ${row.name}`}>
      <div className={styles.panelHead}><b className={styles.big}>{row.name}</b><span style={{ flex: 1 }} /><IconButton size="small" aria-label="Close the day" onClick={close}>✕</IconButton></div>
      {day.isError ? <Failure error={day.error} retry={() => void day.refetch()} /> : !day.data ? <Loading what="the day" /> : (
        <div className={styles.panelBody}>
          {end - begin < DAY_MS && day.data.spans.length > 0 && <TimeLine spans={day.data.spans} begin={begin} end={end} />}
          <h3>Where the time went</h3>
          <Sum row={day.data.row ?? row} />
          {day.data.reasons.length > 0 && <><h3>Away for</h3><table className={styles.sumTable}><tbody>{day.data.reasons.map((one) => <tr key={one.reason}><td /><td>{one.reason}</td><td className="num">{clock(one.ms)}</td></tr>)}</tbody></table></>}
          <h3>Contacts by queue</h3>
          <table className={styles.plain}>
            <thead><tr><th>Queue</th><th className="num">Parts</th><th className="num">Talk</th><th className="num">Hold</th><th className="num">Wrap-up</th></tr></thead>
            <tbody>{day.data.queues.map((one) => <tr key={one.name}><td>{one.name}</td><td className="num">{one.legs}</td><td className="num">{clock(one.talk_ms)}</td><td className="num">{clock(one.hold_ms)}</td><td className="num">{clock(one.wrap_ms)}</td></tr>)}</tbody>
          </table>
          <h3>Codes</h3>
          <table className={styles.sumTable}><tbody>{day.data.codes.map((one) => <tr key={one.name}><td /><td className={one.name === "No code" ? styles.noCode : undefined}>{one.name}</td><td className="num">{one.legs}</td></tr>)}</tbody></table>
        </div>
      )}
    </aside>
  );
}

/** What agents did with their time, and with the contacts. */
export default function AgentsReport() {
  const asked = useAsked();
  const [opened, setOpened] = useState<Row | null>(null);
  const team = asked.get("team");
  const period = periodOf(asked) as object;
  const query = { ...period, ...(team && { team }) };
  const teams = useQuery({ queryKey: keys.list("teams", MOST), queryFn: () => data(api.GET("/api/v1/teams", { params: { query: MOST } })) });
  const report = useReport("agents", query, () => data(api.GET("/api/v1/reports/agents", { params: { query } })));
  const told = report.data;
  const field = (
    <TextField select size="small" label="Team" value={team} sx={{ width: 200 }} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }} onChange={(event) => { setOpened(null); asked.set({ team: event.target.value }); }}>
      <MenuItem value="">All teams</MenuItem>
      {teams.data?.results.map((one) => <MenuItem key={one.id} value={one.id}>{one.name}</MenuItem>)}
    </TextField>
  );
  return (
    <ReportPage here="agents" name="Agents" asked={asked} report={report} fields={field}
      bare={(all) => (all.rows.length ? `${all.rows.length} agents were there, ${percent(all.total.occupancy, 0)} of their ready time with contacts.` : "Nobody was there in these days.")}
      aside={opened && told && <Day row={opened} query={period} begin={told.begin_ms} end={told.end_ms} close={() => { setOpened(null); }} />}>
      {(all) => all.rows.length === 0 ? <Empty title="Nothing to show for these days">Agents’ states are counted from the moment they sign in.</Empty> : (
        <div className={styles.tableBox}>
          <table className={styles.table}>
            <thead><tr><th>Agent</th>{!opened && <th>Team</th>}<th className="num">Signed in</th><th>Of it: on contact, wrapping up, ringing, available, away</th><th className="num" title="On contact and wrapping up, of these and available and ringing">Occupancy</th><th className="num">Contacts</th><th className="num">Handle, average</th><th className="num">Hold</th><th className="num">Passed on</th><th className="num">Rings missed</th><th className="num">Coded</th></tr></thead>
            <tbody>
              {all.rows.map((row) => (
                <tr key={row.agent} className={opened?.agent === row.agent ? styles.openedRow : undefined}>
                  <th scope="row"><button type="button" className={styles.figure} onClick={() => { setOpened(row); }}>{row.name}</button></th>
                  {!opened && <td className="dim">{row.team}</td>}
                  <Cells row={row} />
                </tr>
              ))}
            </tbody>
            <tfoot><tr><th scope="row">All of them</th>{!opened && <td />}<Cells row={all.total} /></tr></tfoot>
          </table>
        </div>
      )}
    </ReportPage>
  );
}
