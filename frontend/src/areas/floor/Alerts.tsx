import { FormControlLabel, MenuItem, Switch, TextField, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { alerts, queues, teams } from "../../api/resources";
import { type Wish, wish, wishes } from "../../frame/alertWishes";
import { clock, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { useTopic } from "../../frame/useLive";
import { ConfigListPage } from "../shared/ConfigListPage";
import { type OwnProps, picked } from "../shared/fields";
import styles from "./floor.module.css";

type Rule = Schemas["AlertRule"];

const figures: Record<Rule["figure"], string> = {
  waiting: "Waiting",
  longest: "Longest wait",
  expected: "Expected wait",
  available: "Available agents",
  signed_in: "Signed-in agents",
  away: "Agents away",
  level: "Service level today",
  level_now: "Service level, last half hour",
  abandoned: "Abandoned today",
};
const units: Partial<Record<Rule["figure"], string>> = { longest: "s", expected: "s", level: "%", level_now: "%" };
const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

function Side({ value, disabled, change }: OwnProps) {
  return (
    <TextField
      select
      label="When it is"
      value={value === false ? "below" : "above"}
      disabled={disabled}
      onChange={(event) => change(event.target.value === "above")}>
      <MenuItem value="above">more than</MenuItem>
      <MenuItem value="below">less than</MenuItem>
    </TextField>
  );
}

function Weekdays({ value, disabled, change }: OwnProps) {
  const chosen = Array.isArray(value) ? (value as number[]) : [];
  return (
    <div>
      <div className={`dim ${styles.caption}`}>On these days; none chosen: on all</div>
      <ToggleButtonGroup
        size="small"
        value={chosen}
        disabled={disabled}
        aria-label="On these days"
        onChange={(_, next: number[]) => change(next.toSorted())}>
        {days.map((name, day) => (
          <ToggleButton key={name} value={day}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    </div>
  );
}

const typed = (minutes: unknown) =>
  typeof minutes === "number"
    ? `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`
    : "";

function timeField(label: string) {
  return function Time({ value, disabled, error, change }: OwnProps) {
    return (
      <TextField
        type="time"
        label={label}
        value={typed(value)}
        disabled={disabled}
        error={Boolean(error)}
        helperText={error ?? "Empty: the whole day."}
        slotProps={{ inputLabel: { shrink: true } }}
        onChange={(event) => {
          const [h, m] = event.target.value.split(":").map(Number);
          change(h === undefined || m === undefined ? null : h * 60 + m);
        }}
      />
    );
  };
}

/** How this browser tells of an alert that arises. */
function Wishes() {
  const [now, setNow] = useState(wishes);
  const { enqueueSnackbar } = useSnackbar();
  const set = async (what: Wish, on: boolean) => {
    if (!(await wish(what, on)))
      enqueueSnackbar("The browser does not allow notifications for this page.", { variant: "error" });
    setNow(wishes());
  };
  return (
    <>
      <FormControlLabel
        label="Sound"
        control={<Switch size="small" checked={now.sound} onChange={(_, on) => void set("sound", on)} />}
      />
      <FormControlLabel
        label="Notify"
        control={<Switch size="small" checked={now.notification} onChange={(_, on) => void set("notification", on)} />}
      />
    </>
  );
}

const states = { arisen: "arose", seen: "seen", over: "over" } as const;

/** What became of alerts, newest first. */
function Log() {
  const { session } = useSession();
  const log = useQuery({
    queryKey: keys.list("alert-log", {}),
    queryFn: () => data(api.GET("/api/v1/alerts/log")),
    refetchInterval: 10_000,
  });
  const standing = Object.keys(useTopic("strip").view?.alerts ?? {}).length;
  return (
    <section aria-label="What arose" className={styles.alertLog}>
      <div className={styles.part}>
        <h2>What arose</h2>
        <span className="dim">{standing > 0 ? `${standing} now` : "nothing now"}</span>
      </div>
      <ol>
        {log.data?.map((line) => (
          <li key={`${line.rule} ${line.at_ms} ${line.state}`}>
            <span className="num dim">{moment(line.at_ms, session.time_zone)}</span>
            <span>
              <b>{line.name}</b> {states[line.state]}
              {line.by && ` by ${line.by}`}
              {line.words && `: ${line.words}`}
            </span>
          </li>
        ))}
      </ol>
      {log.data?.length === 0 && (
        <span className="dim">Nothing yet. What arises, is seen and is over is kept here.</span>
      )}
    </section>
  );
}

/** When the floor is told of a live figure, and what came of it. */
export default function Alerts() {
  return (
    <div className={styles.alertsPage}>
      <ConfigListPage<Rule>
        resource={alerts}
        area="alerts"
        base="/learn/alerts"
        title="Alerts"
        noun="alert"
        titleOf={(rule) => rule.name}
        sort={[{ field: "name", sort: "asc" }]}
        empty="An alert tells everybody who runs the floor that a figure is where it should not be: nobody available for a minute, or callers who wait too long."
        tools={<Wishes />}
        columns={[
          { field: "name", headerName: "Name", flex: 1, minWidth: 160 },
          {
            field: "queue_name",
            headerName: "Queue",
            width: 150,
            valueFormatter: (value: string | null) => value ?? "all queues",
          },
          {
            field: "figure",
            headerName: "Figure",
            width: 200,
            valueFormatter: (value: Rule["figure"]) => figures[value],
          },
          {
            field: "value",
            headerName: "Arises",
            width: 170,
            sortable: false,
            valueGetter: (_, rule) =>
              `${rule.above === false ? "less" : "more"} than ${rule.value} ${units[rule.figure] ?? ""}`.trim(),
          },
          {
            field: "team_names",
            headerName: "Tells",
            width: 170,
            sortable: false,
            valueFormatter: (value: string[]) => value.join(", ") || "who runs the queue",
          },
          {
            field: "for_s",
            headerName: "For",
            width: 80,
            align: "right",
            headerAlign: "right",
            valueFormatter: (value: number) => clock(value * 1000),
          },
        ]}
        initial={{
          above: true,
          for_s: 60,
          weekdays: [],
          teams: [],
          queue: null,
          figure: "waiting",
          from_min: null,
          until_min: null,
        }}
        fields={[
          { kind: "text", name: "name", label: "Name", required: true },
          { kind: "one", name: "queue", label: "Queue", none: "All queues", ...picked(queues, (queue) => queue.name) },
          {
            kind: "many",
            name: "teams",
            label: "Tells the supervisors of",
            help: "None: those who supervise the queue.",
            ...picked(teams, (team) => team.name),
          },
          {
            kind: "choice",
            name: "figure",
            label: "Figure",
            options: Object.entries(figures).map(([value, label]) => ({ value, label })),
          },
          { kind: "own", name: "above", label: "When it is", Input: Side },
          { kind: "number", name: "value", label: "Limit", unit: "s, % or a count", required: true },
          {
            kind: "number",
            name: "for_s",
            label: "For so long",
            unit: "s",
            help: "What wavers shorter than this is no alert.",
          },
          { kind: "own", name: "weekdays", label: "On these days", Input: Weekdays },
          { kind: "own", name: "from_min", label: "From", Input: timeField("From") },
          { kind: "own", name: "until_min", label: "Until", Input: timeField("Until") },
        ]}
      />
      <Log />
    </div>
  );
}
