import { Button } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useEffect, useRef } from "react";
import { Link } from "react-router-dom";
import { api, type Schemas, words } from "../api/client";
import { wishes } from "./alertWishes";
import { timeOfDay } from "./format";
import styles from "./frame.module.css";
import { useSession } from "./session";
import { Glyph } from "./states";
import { ringTone } from "./tones";
import { useTopic } from "./useLive";

type Alert = Schemas["LiveStandingAlert"];
const SHOWN = 3;

/** Tells once of each alert that has arisen while this page was open, in the ways that this browser is asked to. */
function useTold(alerts: [string, Alert][], mine: boolean) {
  const known = useRef<Set<string> | null>(null);
  useEffect(() => {
    const now = new Set(alerts.map(([rule, alert]) => `${rule} ${alert.since_ms}`));
    const before = known.current;
    known.current = now;
    if (!before || !mine) return;
    const fresh = alerts.filter(([rule, alert]) => !before.has(`${rule} ${alert.since_ms}`));
    const wanted = wishes();
    if (fresh.length > 0 && wanted.sound) ringTone();
    if (wanted.notification)
      for (const [rule, alert] of fresh) new Notification(alert.name, { body: alert.words, tag: rule });
  });
}

/** On every page of whoever runs the floor: alerts that nobody has seen, until they are over. */
export function AlertBanner() {
  const { view } = useTopic("strip");
  const { session, may } = useSession();
  const { enqueueSnackbar } = useSnackbar();
  const mine = may("use", "alerts");
  const alerts = Object.entries(view?.alerts ?? {}).sort(([, a], [, b]) => a.since_ms - b.since_ms);
  useTold(alerts, mine);
  const see = useMutation({
    mutationFn: (rule: string) => api.POST("/api/v1/alerts/{rule}/see", { params: { path: { rule } } }),
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const unseen = alerts.filter(([, alert]) => !alert.seen_by);
  if (!mine || unseen.length === 0) return <div />;
  return (
    <div role="alert" aria-label="Alerts" className={styles.alerts}>
      {unseen.slice(0, SHOWN).map(([rule, alert]) => (
        <div key={rule}>
          <Glyph name="peak" colour="var(--plum)" />
          <b>{alert.words}</b>{" "}
          <span className="dim">
            “{alert.name}”, since {timeOfDay(alert.since_ms, session.time_zone).slice(0, 5)}
          </span>
          <Button size="small" variant="outlined" disabled={see.isPending} onClick={() => see.mutate(rule)}>
            Seen
          </Button>
          <Link to={alert.queue ? `/learn/floor?queue=${alert.queue}` : "/learn/floor"}>Open</Link>
        </div>
      ))}
      {unseen.length > SHOWN && (
        <div>
          <Link to="/learn/alerts">and {unseen.length - SHOWN} more alerts</Link>
        </div>
      )}
    </div>
  );
}
