import { Link, useSearchParams } from "react-router-dom";
import styles from "./reports.module.css";

const reports: [string, string][] = [["queues", "Queues"], ["codes", "Wrap-up codes"], ["agents", "Agents"], ["flows", "Flows"], ["hours", "When it is busy"], ["usage", "Numbers & callbacks"]];
/** What goes along from one report to the next. */
const shared = ["period", "first", "last", "weekdays", "from", "until", "queues"];

/** The reports, each answering one question. */
export function ReportTabs({ here }: { here: string }) {
  const [params] = useSearchParams();
  const along = new URLSearchParams([...params].filter(([name]) => shared.includes(name))).toString();
  return (
    <nav className={styles.tabs} aria-label="Reports">
      {reports.map(([key, name]) => <Link key={key} to={`/learn/reports/${key}${along ? `?${along}` : ""}`} aria-current={key === here ? "page" : undefined}>{name}</Link>)}
    </nav>
  );
}
