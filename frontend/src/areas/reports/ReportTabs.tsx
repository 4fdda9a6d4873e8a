import { Button } from "@mui/material";
import { useState } from "react";
import { Link, useSearchParams } from "react-router-dom";
import styles from "./reports.module.css";
import { SaveDialog } from "./SaveDialog";

export const reportNames = new Map([["queues", "Queues"], ["codes", "Wrap-up codes"], ["agents", "Agents"], ["flows", "Flows"], ["hours", "When it is busy"], ["usage", "Numbers & callbacks"]]);
/** What goes along from one report to the next. */
const shared = ["period", "first", "last", "weekdays", "from", "until", "queues"];

/** What is only of the page, and asked of nobody. */
const shown = ["map", "sum"];

/** The reports, each answering one question; and what was kept of them. */
export function ReportTabs({ here, also }: { here: string; also?: Record<string, string> }) {
  const [params] = useSearchParams();
  const [saving, setSaving] = useState(false);
  const along = new URLSearchParams([...params].filter(([name]) => shared.includes(name))).toString();
  const asked = { ...Object.fromEntries([...params].filter(([name]) => !shown.includes(name))), ...also };
  const file = (as: string) => `/api/v1/reports/${here}/sheet?${new URLSearchParams({ ...asked, as }).toString()}`;
  const report = reportNames.get(here);
  return (
    <div className={styles.tabs}>
      <nav aria-label="Reports">
        {[...reportNames, ["saved", "Saved"] as const].map(([key, name]) => <Link key={key} to={`/learn/reports/${key}${along ? `?${along}` : ""}`} aria-current={key === here ? "page" : undefined}>{name}</Link>)}
      </nav>
      {report && (
        <span>
          <Button size="small" onClick={() => { setSaving(true); }}>Save…</Button><Button size="small" href={file("csv")}>CSV</Button><Button size="small" href={file("xlsx")}>XLSX</Button><Button size="small" onClick={() => { window.print(); }}>Print</Button>
        </span>
      )}
      {saving && <SaveDialog close={() => { setSaving(false); }} begun={{ name: report ?? "", report: here as "queues", asked, shared: false, at_min: null, weekdays: [], to: [], file: "xlsx" }} />}
    </div>
  );
}
