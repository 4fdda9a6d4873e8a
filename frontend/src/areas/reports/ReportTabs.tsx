import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { Link, useSearchParams } from "react-router-dom";
import { PastWritten } from "./PastWritten";
import styles from "./reports.module.css";
import { SaveDialog } from "./SaveDialog";

export const reportNames = new Map([
  ["queues", "Queues"],
  ["codes", "Wrap-up codes"],
  ["agents", "Agents"],
  ["flows", "Flows"],
  ["hours", "When it is busy"],
  ["usage", "Numbers & callbacks"],
  ["own", "Put together"],
]);
/** What goes along from one report to the next. */
const shared = ["period", "first", "last", "weekdays", "from", "until", "queues"];

/** What is only of the page, and asked of nobody. */
const shown = ["map", "sum"];

const kinds = [
  ["xlsx", "numbers, times and definitions"],
  ["csv", "for other programs"],
  ["pdf", "to read and send on"],
] as const;

/** The reports, each answering one question; and what was kept of them. */
export function ReportTabs({ here, also }: { here: string; also?: Record<string, string> }) {
  const [params] = useSearchParams();
  const [saving, setSaving] = useState(false);
  const along = new URLSearchParams([...params].filter(([name]) => shared.includes(name))).toString();
  const asked = { ...Object.fromEntries([...params].filter(([name]) => !shown.includes(name))), ...also };
  const file = (as: string) => `/api/v1/reports/${here}/sheet?${new URLSearchParams({ ...asked, as }).toString()}`;
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const close = () => {
    setMenu(null);
  };
  const report = reportNames.get(here);
  return (
    <div className={styles.tabs}>
      <nav aria-label="Reports">
        {[...reportNames, ["saved", "Saved"] as const].map(([key, name]) => (
          <Link
            key={key}
            to={`/learn/reports/${key}${along ? `?${along}` : ""}`}
            aria-current={key === here ? "page" : undefined}>
            {name}
          </Link>
        ))}
      </nav>
      <PastWritten />
      {report && (
        <span>
          <Button size="small" onClick={() => setSaving(true)}>
            Save…
          </Button>
          <Button size="small" aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
            Export
          </Button>
          <Menu anchorEl={menu} open={menu !== null} onClose={close} onClick={close}>
            {kinds.map(([as, what]) => (
              <MenuItem key={as} dense component="a" href={file(as)}>
                {as.toUpperCase()}
                <span className={`dim ${styles.what}`}>{what}</span>
              </MenuItem>
            ))}
            <MenuItem dense onClick={() => window.print()}>
              Print<span className={`dim ${styles.what}`}>this page</span>
            </MenuItem>
          </Menu>
        </span>
      )}
      {saving && (
        <SaveDialog
          close={() => setSaving(false)}
          begun={{
            name: report ?? "",
            report: here as "queues",
            asked,
            shared: false,
            at_min: null,
            weekdays: [],
            to: [],
            file: "xlsx",
          }}
        />
      )}
    </div>
  );
}
