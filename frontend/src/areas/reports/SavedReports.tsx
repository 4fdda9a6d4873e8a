import { Button } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure, Loading } from "../../frame/states";
import styles from "./reports.module.css";
import { reportNames, ReportTabs } from "./ReportTabs";
import { type Draft, type Saved, SaveDialog, timeOf } from "./SaveDialog";

const FRESH_MS = 10_000;
const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

function when(report: Saved): string {
  if (report.at_min === null || report.at_min === undefined) return "when asked for";
  const on = report.weekdays?.length ? report.weekdays.map((day) => days[day]).join(", ") : "every day";
  return `at ${timeOf(report.at_min)}, ${on}${report.to?.length ? `, to ${report.to.join(", ")}` : ""}`;
}

function Reports({ rows, edit }: { rows: Saved[]; edit: (report: Draft) => void }) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const again = () => {
    void cache.invalidateQueries({ queryKey: keys.all("saved-reports") });
    void cache.invalidateQueries({ queryKey: keys.all("report-files") });
  };
  const failed = (error: unknown) => {
    enqueueSnackbar(words(error), { variant: "error" });
  };
  const make = useMutation({
    mutationFn: (id: number) => data(api.POST("/api/v1/reports/saved/{id}/file", { params: { path: { id } } })),
    onSuccess: (made) => {
      again();
      enqueueSnackbar(made.error ? made.error : `${made.name} is listed below.`, {
        variant: made.error ? "error" : "default",
      });
    },
    onError: failed,
  });
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/v1/reports/saved/{id}", { params: { path: { id } } }),
    onSuccess: again,
    onError: failed,
  });
  return (
    <section className={styles.block} aria-label="Saved reports">
      <h2>Saved reports</h2>
      <table className={styles.plain}>
        <thead>
          <tr>
            <th>Name</th>
            <th>Report</th>
            <th>Whose</th>
            <th>A file is made</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((report) => (
            <tr key={report.id}>
              <td>
                <Link to={`/learn/reports/${report.report}?${new URLSearchParams(report.asked ?? {}).toString()}`}>
                  {report.name}
                </Link>
              </td>
              <td>{reportNames.get(report.report)}</td>
              <td className="dim">{report.mine ? (report.shared ? "mine, shared" : "mine") : report.owner_name}</td>
              <td>{when(report)}</td>
              <td className="num">
                {report.mine && (
                  <>
                    <Button size="small" disabled={make.isPending} onClick={() => make.mutate(report.id)}>
                      Make a file now
                    </Button>
                    <Button size="small" onClick={() => edit(report)}>
                      Change…
                    </Button>
                    <Button size="small" onClick={() => remove.mutate(report.id)}>
                      Delete
                    </Button>
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Files({ rows }: { rows: Schemas["ReportFile"][] }) {
  const { session } = useSession();
  return (
    <section className={styles.block} aria-label="Files">
      <h2>
        Files <span className="dim">the newest thirty of each report</span>
      </h2>
      {rows.length === 0 ? (
        <p className={`dim ${styles.intro}`}>No file was made yet.</p>
      ) : (
        <table className={styles.plain}>
          <thead>
            <tr>
              <th>Made</th>
              <th>File</th>
              <th>Sent to</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((file) => (
              <tr key={file.id}>
                <td>{moment(file.made_ms, session.time_zone)}</td>
                <td>
                  {file.size > 0 ? <a href={`/api/v1/reports/files/${file.id}`}>{file.name}</a> : file.report_name}
                  {file.error && <span className={styles.missWord}> {file.error}</span>}
                </td>
                <td className="dim">{(file.sent_to as string[] | undefined)?.join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** Reports that are kept, and the files that were made of them. */
export default function SavedReports() {
  const [editing, setEditing] = useState<Draft | null>(null);
  const saved = useQuery({
    queryKey: keys.all("saved-reports"),
    queryFn: () => data(api.GET("/api/v1/reports/saved")),
  });
  const files = useQuery({
    queryKey: keys.all("report-files"),
    queryFn: () => data(api.GET("/api/v1/reports/saved/files")),
    refetchInterval: FRESH_MS,
  });
  return (
    <section className={styles.page} aria-label="Saved reports and their files">
      <div className={styles.main}>
        <ReportTabs here="saved" />
        {saved.isError ? (
          <Failure error={saved.error} retry={() => void saved.refetch()} />
        ) : !saved.data ? (
          <Loading what="the saved reports" />
        ) : saved.data.length === 0 ? (
          <Empty title="No report is saved yet">
            Set up a report as you want it, its days in words such as “Yesterday” or “Last week”, and press Save. A file
            of it can be made at a time of day, and sent.
          </Empty>
        ) : (
          <>
            <Reports rows={saved.data} edit={setEditing} />
            <Files rows={files.data ?? []} />
          </>
        )}
      </div>
      {editing && <SaveDialog begun={editing} close={() => setEditing(null)} />}
    </section>
  );
}
