import { Button, MenuItem, Popover, TextField, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useState } from "react";
import { DateBox } from "../shared/MomentBox";
import styles from "./reports.module.css";
import type { Asked } from "./useAsked";

const periods: Record<string, string> = {
  today: "Today",
  yesterday: "Yesterday",
  "7days": "The last 7 days",
  "28days": "The last 28 days",
  this_week: "This week",
  last_week: "Last week",
  this_month: "This month",
  last_month: "Last month",
};
const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const hoursOfDay = Array.from({ length: 25 }, (_, hour) => `${String(hour).padStart(2, "0")}:00`);

/** Which days, and of them which weekdays and hours. */
export function PeriodField({ asked, any }: { asked: Asked; any?: string }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const custom = asked.get("first") !== "";
  const chosen = custom ? "days" : asked.get("period") || (any ? "" : "7days");
  const only = asked.get("weekdays");
  const narrowed = only || asked.get("from") || asked.get("until");
  return (
    <>
      <TextField
        select
        size="small"
        label="Period"
        value={chosen}
        sx={{ width: 170 }}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        onChange={(event) => {
          if (event.target.value === "days") setAnchor(document.activeElement as HTMLElement);
          else asked.set({ period: event.target.value, first: "", last: "" });
        }}>
        {any && <MenuItem value="">{any}</MenuItem>}
        {Object.entries(periods).map(([value, label]) => (
          <MenuItem key={value} value={value}>
            {label}
          </MenuItem>
        ))}
        <MenuItem value="days">{custom ? "Chosen days" : "Choose days…"}</MenuItem>
      </TextField>
      <Button onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="dialog">
        {narrowed ? "Days and hours: narrowed" : "Days and hours…"}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}>
        <div className={styles.days} role="group" aria-label="Days and hours">
          <div className={styles.pair}>
            <DateBox
              label="First day"
              value={asked.get("first")}
              change={(value) => asked.set({ first: value, last: asked.get("last") || value, period: "" })}
            />
            <DateBox
              label="Last day"
              value={asked.get("last")}
              change={(value) => asked.set({ last: value, first: asked.get("first") || value, period: "" })}
            />
          </div>
          <ToggleButtonGroup
            size="small"
            value={only ? only.split(",") : []}
            aria-label="Only these weekdays"
            onChange={(_, value: string[]) => asked.set({ weekdays: value.toSorted().join(",") })}>
            {weekdays.map((name, day) => (
              <ToggleButton key={name} value={String(day)}>
                {name}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <div className={styles.pair}>
            {(["from", "until"] as const).map((name) => (
              <TextField
                key={name}
                select
                size="small"
                label={name === "from" ? "From" : "Until"}
                value={asked.get(name) || (name === "from" ? "00:00" : "24:00")}
                sx={{ width: 110 }}
                onChange={(event) =>
                  asked.set({
                    [name]: event.target.value === (name === "from" ? "00:00" : "24:00") ? "" : event.target.value,
                  })
                }>
                {hoursOfDay.map((hour) => (
                  <MenuItem key={hour} value={hour}>
                    {hour}
                  </MenuItem>
                ))}
              </TextField>
            ))}
            <span className="fill" />
            <Button onClick={() => asked.set({ weekdays: "", from: "", until: "" })} disabled={!narrowed}>
              All days and hours
            </Button>
          </div>
        </div>
      </Popover>
    </>
  );
}
