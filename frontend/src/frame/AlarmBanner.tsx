import { Button } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useEffect } from "react";
import { Link } from "react-router-dom";
import { api, type Schemas, words } from "../api/client";
import { timeOfDay } from "./format";
import styles from "./frame.module.css";
import { useSession } from "./session";
import { Glyph } from "./states";
import { alarmTone } from "./tones";
import { useTopic } from "./useLive";

const AGAIN_MS = 4_000;

/** The emergencies that stand, oldest first. */
export function useAlarms(): [string, Schemas["LiveStandingAlarm"]][] {
  const { view } = useTopic("strip");
  return Object.entries(view?.alarms ?? {}).sort(([, a], [, b]) => a.since_ms - b.since_ms);
}

/** Sounds again and again while something stands that this person may take. */
function useAlarmTone(sounds: boolean) {
  useEffect(() => {
    if (!sounds) return undefined;
    alarmTone();
    const timer = window.setInterval(alarmTone, AGAIN_MS);
    return () => {
      window.clearInterval(timer);
    };
  }, [sounds]);
}

/** Says on every page who is in need, until somebody takes it. */
export function AlarmBanner() {
  const alarms = useAlarms();
  const { session, may } = useSession();
  const { enqueueSnackbar } = useSnackbar();
  const take = useMutation({
    mutationFn: (contact: string) => api.POST("/api/v1/alarms/{contact}/take", { params: { path: { contact } } }),
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const mine = may("change", "alarms");
  useAlarmTone(mine && alarms.length > 0);
  if (alarms.length === 0) return <div />;
  return (
    <div className={styles.alarms} role="alert" aria-label="Emergencies">
      {alarms.map(([contact, alarm]) => (
        <div key={contact}>
          <Glyph name="peak" colour="currentColor" />
          <span>
            <b>{alarm.name}</b> pressed the emergency button at {timeOfDay(alarm.since_ms, session.time_zone)}
            {alarm.caller && <>, with {alarm.caller}</>}; {alarm.over ? "that contact is over" : "the contact goes on"}.
          </span>
          <Link to={`/learn/contacts/${contact}`}>Trace</Link>
          {mine && (
            <Button
              size="small"
              variant="contained"
              color="secondary"
              disabled={take.isPending}
              onClick={() => take.mutate(contact)}>
              I look after it
            </Button>
          )}
        </div>
      ))}
    </div>
  );
}
