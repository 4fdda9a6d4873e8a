import { useMediaQuery } from "@mui/material";
import { Link, useLocation } from "react-router-dom";
import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../api/client";
import { keys } from "../api/keys";
import { useAlarms } from "./AlarmBanner";
import { clock, counted, percent } from "./format";
import { useSession } from "./session";
import { stages } from "./stages";
import styles from "./frame.module.css";
import { useNow, useTopic } from "./useLive";

type Figures = Schemas["LiveStripFigures"];
const USUAL_MS = 300_000;
/** Where the words of a stage have to be short. */
const NARROW = "(max-width: 1180px)";

/** In words, or as an envelope where the room is needed for who waits. */
function NewMessages({ count, short }: { count: number; short: boolean }) {
  const what = count === 1 ? "new message" : "new messages";
  if (!short)
    return (
      <>
        <b>{count}</b> {what}
      </>
    );
  return (
    <span className="nowrap" title={`${count} ${what}`}>
      <b>{count}</b>{" "}
      <svg role="img" aria-label={what} width="14" height="10" viewBox="0 0 14 10">
        <path d="M1 1h12v8H1zl6 5 6-5" fill="none" stroke="currentColor" strokeWidth="1.3" />
      </svg>
    </span>
  );
}

/** The live figures of a stage, in words. */
function Counts({
  stage,
  f,
  now,
  alarms,
  narrow,
}: {
  stage: string;
  f: Figures;
  now: number;
  alarms: number;
  narrow: boolean;
}) {
  switch (stage) {
    case "arrive":
      return (
        <>
          <b>{counted(f.arrived)}</b> arrived today
          {f.diversions > 0 && (
            <>
              {" "}
              · <b>{f.diversions}</b> diverted
            </>
          )}
        </>
      );
    case "guide":
      return (
        <>
          <b>{f.in_flows}</b> {f.in_flows === 1 ? "caller" : "callers"} inside flows now
        </>
      );
    case "wait":
      return (
        <>
          <b>{f.waiting}</b> waiting
          {f.first_entered_ms !== null && (
            <>
              {" "}
              · longest <b>{clock(now - f.first_entered_ms)}</b>
            </>
          )}
          {f.callbacks > 0 && (
            <>
              {" "}
              · <b>{f.callbacks}</b> to ring
            </>
          )}
          {f.messages > 0 && (
            <>
              {" "}
              · <NewMessages count={f.messages} short={narrow || f.first_entered_ms !== null || f.callbacks > 0} />
            </>
          )}
        </>
      );
    case "talk":
      return (
        <>
          {alarms > 0 && <span className="chip blocks">{alarms} in need</span>} <b>{f.on_contact}</b>{" "}
          {narrow ? "on" : "on a contact"} · <b>{f.available}</b> available
        </>
      );
    case "wrap":
      return (
        <>
          <b>{f.wrapping}</b>
          {!narrow && " wrapping up"} · <b>{f.legs ? percent(f.coded / f.legs, 0) : "–"}</b> coded
        </>
      );
    default:
      return (
        <>
          <b>{percent(f.service_level)}</b> service level today
        </>
      );
  }
}

/** What a count a minute comes to as a height of the hill: the weights of its neighbours together. */
const SMOOTHED = 5;

/** The last 60 minutes of a stage as a hill; flat where nothing happened. The dashed line is the usual. */
function ActivityLine({ counts, usual, active }: { counts: number[]; usual?: number; active: boolean }) {
  const points = counts.map((_, i) =>
    counts.reduce(
      (sum, n, j) => (Math.abs(i - j) < 5 ? sum + n * Math.cos(((i - j) / 5) * (Math.PI / 2)) ** 2 : sum),
      0,
    ),
  );
  const level = usual && (usual / counts.length) * SMOOTHED;
  const top = Math.max(1, ...points, level ?? 0);
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
      {level && (
        <line
          x1="0"
          x2="100"
          y1={19 - (level / top) * 15}
          y2={19 - (level / top) * 15}
          stroke="var(--slate)"
          strokeDasharray="2 4"
          vectorEffect="non-scaling-stroke"
        />
      )}
    </svg>
  );
}

const still: number[] = Array.from({ length: 60 }, () => 0);

/** What is usual at this weekday and hour, for those who see reports. */
function useUsual() {
  const { may } = useSession();
  return useQuery({
    queryKey: keys.one("usual", "centre"),
    queryFn: () => data(api.GET("/api/v1/reports/usual")),
    enabled: may("see", "reports"),
    refetchInterval: USUAL_MS,
  }).data;
}

const last = (counts: number[] | undefined) => (counts ?? []).reduce((sum, n) => sum + n, 0);

/** The way around the product, and its shortest status board. */
export function JourneyStrip({ stale }: { stale: boolean }) {
  const { view } = useTopic("strip");
  const now = useNow();
  const { pathname } = useLocation();
  const alarms = useAlarms().length;
  const usual = useUsual();
  const narrow = useMediaQuery(NARROW);
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
            title={`The line: what happened here in each of the last 60 minutes, ${last(view?.activity[stage.key])} in all.${usual?.stages[stage.key] === undefined ? "" : ` Dashed: the usual for this weekday and hour, ${Math.round(usual.stages[stage.key] ?? 0)} (${usual.days} ${usual.days === 1 ? "day" : "days"}).`}${stage.key === "arrive" && usual?.arrived != null ? ` ${Math.round(usual.arrived)} have usually arrived by now.` : ""}`}>
            <ActivityLine
              counts={view?.activity[stage.key] ?? still}
              usual={usual?.stages[stage.key]}
              active={active}
            />
            <span className={styles.stageName}>{stage.name}</span>
            <span className={styles.stageCounts} style={{ opacity: stale ? 0.45 : 1 }}>
              {figures ? <Counts stage={stage.key} f={figures} now={now} alarms={alarms} narrow={narrow} /> : "–"}
            </span>
          </Link>
        );
      })}
    </nav>
  );
}
