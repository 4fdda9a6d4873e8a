import { Button, IconButton, TextField, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useState } from "react";
import type { Step } from "../../../api/client";
import { freeArm } from "../edits";
import type { StepProps } from "./stepProps";
import { DateBox } from "../../shared/MomentBox";
import { WayBox } from "./WayBox";
import styles from "./sheet.module.css";

type Times = Extract<Step, { kind: "times" }>;
type Period = Times["arms"][number]["periods"][number];

const DAYS = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];
const NAMES = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
const everyDay: Period = { days: [0, 1, 2, 3, 4, 5, 6], start: 480, end: 1080, first: null, last: null };

const DAY = 1440;

const clock = (minute: number) =>
  `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;

/** Minutes of a typed time; null where it is none. */
function minutes(text: string): number | null {
  const found = /^(\d{1,2}):(\d{2})$/.exec(text.trim());
  const at = found ? Number(found[1]) * 60 + Number(found[2]) : NaN;
  return at >= 0 && at <= 1440 ? at : null;
}

interface ClockProps {
  label: string;
  value: number;
  /** The minute that it must not be. */
  other: number;
  help?: string;
  disabled: boolean;
  change: (minute: number) => void;
}

function ClockField({ label, value, other, help, disabled, change }: ClockProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const [left, setLeft] = useState(false);
  const at = typed === null ? value : minutes(typed);
  const wrong =
    at === null
      ? "A time like 08:30 is needed, at most 24:00."
      : at === other
        ? "It cannot begin and end at the same minute."
        : null;
  return (
    <TextField
      label={label}
      value={typed ?? clock(value)}
      disabled={disabled}
      error={left && wrong !== null}
      helperText={(left && wrong) || help}
      onFocus={() => setLeft(false)}
      onChange={(event) => {
        const to = minutes(event.target.value);
        setTyped(event.target.value);
        if (to !== null && to !== other) change(to);
      }}
      onBlur={() => {
        setLeft(true);
        if (wrong === null) setTyped(null);
      }}
    />
  );
}

function OnePeriod({
  period,
  disabled,
  change,
  remove,
}: {
  period: Period;
  disabled: boolean;
  change: (period: Period, typing: boolean) => void;
  remove: () => void;
}) {
  return (
    <div role="group" aria-label="Days and times" className={styles.period}>
      <ToggleButtonGroup
        size="small"
        fullWidth
        value={period.days}
        disabled={disabled}
        sx={{ gridColumn: "1 / 3" }}
        onChange={(_, days: number[]) => change({ ...period, days: [...days].sort((a, b) => a - b) }, false)}>
        {DAYS.map((day, i) => (
          <ToggleButton key={day} value={i} aria-label={NAMES[i] ?? day} sx={{ py: 0.25, px: 0.5 }}>
            {day}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <IconButton size="small" disabled={disabled} aria-label="Remove these days and times" onClick={remove}>
        ✕
      </IconButton>
      <ClockField
        label="From"
        value={period.start}
        other={period.end}
        disabled={disabled}
        change={(start) => {
          if (start < DAY) change({ ...period, start }, true);
        }}
      />
      <ClockField
        label="Until"
        value={period.end}
        other={period.start}
        help={period.end < period.start ? "on the next day" : undefined}
        disabled={disabled}
        change={(end) => change({ ...period, end: end || DAY }, true)}
      />
      <span />
      <DateBox
        label="First date"
        value={period.first ?? ""}
        disabled={disabled}
        change={(first) => change({ ...period, first: first || null }, true)}
      />
      <DateBox
        label="Last date"
        value={period.last ?? ""}
        disabled={disabled}
        change={(last) => change({ ...period, last: last || null }, true)}
      />
    </div>
  );
}

/** The arms of a fork by day and time; the first that holds is taken. */
export function TimesArms({ step, change, ...box }: StepProps<Times>) {
  const { disabled } = box;
  const set = (at: number, changed: Partial<Times["arms"][number]>, tag = "") => {
    change({ ...step, arms: step.arms.map((arm, i) => (i === at ? { ...arm, ...changed } : arm)) }, tag);
  };
  return (
    <div className="stack">
      {step.arms.map((arm, i) => (
        <WayBox
          key={arm.id}
          {...box}
          step={step}
          way={arm}
          number={i + 1}
          rename={(label) => set(i, { label }, `${step.id} ${arm.id}`)}
          remove={() => change({ ...step, arms: step.arms.filter((_, n) => n !== i) })}>
          {arm.periods.map((period, n) => (
            <OnePeriod
              key={n}
              period={period}
              disabled={disabled}
              remove={() => set(i, { periods: arm.periods.filter((_, m) => m !== n) })}
              change={(changed, typing) =>
                set(
                  i,
                  { periods: arm.periods.map((old, m) => (m === n ? changed : old)) },
                  typing ? `${step.id} ${arm.id} ${n}` : "",
                )
              }
            />
          ))}
          {!disabled && (
            <div>
              <Button onClick={() => set(i, { periods: [...arm.periods, everyDay] })}>Add days and times</Button>
            </div>
          )}
        </WayBox>
      ))}
      {!disabled && (
        <div>
          <Button
            variant="outlined"
            onClick={() =>
              change({
                ...step,
                arms: [...step.arms, { id: freeArm(step.arms), label: "", periods: [everyDay], next: null }],
              })
            }>
            Add a way
          </Button>
        </div>
      )}
    </div>
  );
}
