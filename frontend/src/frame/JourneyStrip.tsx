import { Link, useLocation } from "react-router-dom";
import type { Schemas } from "../api/client";
import { useAlarms } from "./AlarmBanner";
import { clock, percent } from "./format";
import { stages } from "./stages";
import styles from "./frame.module.css";
import { useNow, useTopic } from "./useLive";

type Figures = Schemas["LiveStripFigures"];

/** In words, or as an envelope where the room is needed for who waits. */
function NewMessages({ count, short }: { count: number; short: boolean }) {
  const what = count === 1 ? "new message" : "new messages";
  if (!short) return <><b>{count}</b> {what}</>;
  return (
    <span className="nowrap" title={`${count} ${what}`}>
      <b>{count}</b> <svg role="img" aria-label={what} width="14" height="10" viewBox="0 0 14 10"><path d="M1 1h12v8H1zl6 5 6-5" fill="none" stroke="currentColor" strokeWidth="1.3" /></svg>
    </span>
  );
}

/** The live figures of a stage, in words. */
function Counts({ stage, f, now, alarms }: { stage: string; f: Figures; now: number; alarms: number }) {
  switch (stage) {
    case "arrive":
      return <><b>{f.arrived}</b> arrived today{f.diversions > 0 && <> · <b>{f.diversions}</b> diverted</>}</>;
    case "guide":
      return <><b>{f.in_flows}</b> {f.in_flows === 1 ? "caller" : "callers"} inside flows now</>;
    case "wait":
      return (
        <>
          <b>{f.waiting}</b> waiting
          {f.first_entered_ms !== null && <> · longest <b>{clock(now - f.first_entered_ms)}</b></>}
          {f.callbacks > 0 && <> · <b>{f.callbacks}</b> to ring</>}
          {f.messages > 0 && <> · <NewMessages count={f.messages} short={f.first_entered_ms !== null || f.callbacks > 0} /></>}
        </>
      );
    case "talk":
      return <>{alarms > 0 && <span className="chip blocks">{alarms} in need</span>} <b>{f.on_contact}</b> on a contact · <b>{f.available}</b> available</>;
    case "wrap":
      return <><b>{f.wrapping}</b> wrapping up · <b>{f.legs ? percent(f.coded / f.legs, 0) : "–"}</b> coded</>;
    default:
      return <><b>{percent(f.service_level)}</b> service level today</>;
  }
}

/** The last 60 minutes of a stage as a hill; flat where nothing happened. */
function ActivityLine({ counts, active }: { counts: number[]; active: boolean }) {
  const points = counts.map((_, i) =>
    counts.reduce((sum, n, j) => (Math.abs(i - j) < 5 ? sum + n * Math.cos(((i - j) / 5) * (Math.PI / 2)) ** 2 : sum), 0),
  );
  const top = Math.max(1, ...points);
  const line = points.map((n, i) => `${(i / 59) * 100},${19 - (n / top) * 15}`).join(" ");
  return (
    <svg className={styles.activity} viewBox="0 0 100 58" preserveAspectRatio="none" aria-hidden="true">
      <polygon points={`0,58 0,19 ${line} 100,58`} fill={active ? "var(--sheet)" : "var(--haze-1)"} />
      <polyline
        points={line}
        fill="none"
        stroke={active ? "var(--pine)" : "var(--pine-70)"}
        strokeWidth={active ? 2 : 1}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

const still: number[] = Array.from({ length: 60 }, () => 0);

/** The way around the product, and its shortest status board. */
export function JourneyStrip({ stale }: { stale: boolean }) {
  const { view } = useTopic("strip");
  const now = useNow();
  const { pathname } = useLocation();
  const alarms = useAlarms().length;
  const figures = view?.figures;
  return (
    <nav className={styles.strip} aria-label="The caller's journey">
      {stages.map((stage) => {
        const active = stage.pages.some((page) => pathname.startsWith(page.path));
        const first = stage.pages[0];
        return (
          <Link
            key={stage.key}
            to={first ? first.path : "/"}
            className={styles.stage}
            aria-current={active ? "true" : undefined}
            title="The line: what happened here in each of the last 60 minutes"
          >
            <ActivityLine counts={view?.activity[stage.key] ?? still} active={active} />
            <span className={styles.stageName}>{stage.name}</span>
            <span className={styles.stageCounts} style={{ opacity: stale ? 0.45 : 1 }}>
              {figures ? <Counts stage={stage.key} f={figures} now={now} alarms={alarms} /> : "–"}
            </span>
          </Link>
        );
      })}
    </nav>
  );
}
