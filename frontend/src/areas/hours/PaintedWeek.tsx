import { Button, Menu, MenuItem } from "@mui/material";
import { useRef, useState } from "react";
import styles from "./hours.module.css";
import { at, DAY, nudged, painted, type Span, STEP, type Week, WEEKDAYS } from "./spans";

const share = (minutes: number) => `${(minutes / DAY) * 100}%`;

interface Props {
  week: Week;
  disabled: boolean;
  change: (week: Week) => void;
}

/** So many minutes are wide enough for the words of a span; of a shorter one they stand beside it. */
const WORDS_NEED = 4 * 60;

/** One span: a bar that the arrow keys move. */
function Bar({
  day,
  span,
  disabled,
  replace,
}: {
  day: number;
  span: Span;
  disabled: boolean;
  replace: (span: Span | null) => void;
}) {
  const press = (event: React.KeyboardEvent) => {
    const steps = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (steps) replace(nudged(span, event.shiftKey ? "end" : event.altKey ? "start" : "both", steps));
    else if (event.key === "Delete" || event.key === "Backspace") replace(null);
    else return;
    event.preventDefault();
  };
  const shown = `${at(span.start)}–${at(span.end)}`;
  const ends = Math.min(span.end, DAY);
  const beside = ends - span.start >= WORDS_NEED ? undefined : ends + WORDS_NEED <= DAY ? "after" : "before";
  return (
    <button
      type="button"
      className={styles.bar}
      data-words={beside}
      disabled={disabled}
      onKeyDown={press}
      onPointerDown={(event) => event.stopPropagation()}
      style={{ left: share(span.start), width: share(ends - span.start) }}
      aria-label={`${WEEKDAYS[day] ?? ""} ${shown}. Arrows move it, with Shift its end, with Alt its beginning; Delete removes it.`}
      title={shown}>
      <span>
        {shown}
        {span.end > DAY ? " →" : ""}
      </span>
    </button>
  );
}

/** A day: drag over it to paint it open. */
function DayRow({
  day,
  spans,
  late,
  disabled,
  change,
}: {
  day: number;
  spans: Span[];
  late: Span[];
  disabled: boolean;
  change: (spans: Span[]) => void;
}) {
  const row = useRef<HTMLDivElement>(null);
  const [brush, setBrush] = useState<Span | null>(null);
  const minuteAt = (x: number) => {
    const box = row.current?.getBoundingClientRect();
    if (!box) return 0;
    return Math.min(DAY, Math.max(0, Math.round((((x - box.left) / box.width) * DAY) / STEP) * STEP));
  };
  const ends = brush && { start: Math.min(brush.start, brush.end), end: Math.max(brush.start, brush.end) };
  const replace = (index: number) => (span: Span | null) => {
    change(span ? spans.map((old, i) => (i === index ? span : old)) : spans.filter((_, i) => i !== index));
  };
  return (
    <div
      ref={row}
      className={styles.day}
      aria-label={WEEKDAYS[day]}
      role="group"
      onPointerDown={(event) => {
        if (disabled) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        const minute = minuteAt(event.clientX);
        setBrush({ start: minute, end: minute });
      }}
      onPointerMove={(event) => {
        if (brush) setBrush({ ...brush, end: minuteAt(event.clientX) });
      }}
      onPointerUp={() => {
        if (ends && ends.end > ends.start) change(painted(spans, ends));
        setBrush(null);
      }}>
      {late.map((span) => (
        <i
          key={span.start}
          className={styles.tail}
          style={{ width: share(span.end - DAY) }}
          title={`until ${at(span.end)}, from the day before`}
        />
      ))}
      {spans.map((span, i) => (
        <Bar key={i} day={day} span={span} disabled={disabled} replace={replace(i)} />
      ))}
      {ends && (
        <i className={styles.brush} style={{ left: share(ends.start), width: share(ends.end - ends.start) }}>
          {at(ends.start)}–{at(ends.end)}
        </i>
      )}
    </div>
  );
}

const copies: { name: string; days: number[] }[] = [
  { name: "Monday to Friday", days: [0, 1, 2, 3, 4] },
  { name: "Saturday and Sunday", days: [5, 6] },
  { name: "every day", days: [0, 1, 2, 3, 4, 5, 6] },
];

function DayTools({ day, week, change }: { day: number; week: Week; change: (week: Week) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const mine = week[day] ?? [];
  const copy = (days: number[]) => {
    change(week.map((spans, i) => (days.includes(i) ? mine : spans)));
    setAnchor(null);
  };
  const add = () => {
    change(week.map((spans, i) => (i === day ? painted(spans, { start: 480, end: 1080 }) : spans)));
  };
  const small = { minWidth: 0, px: 0.75, fontSize: 12 };
  return (
    <span className={styles.tools}>
      <Button sx={small} onClick={add} aria-label={`Add a span on ${WEEKDAYS[day] ?? ""}`}>
        +
      </Button>
      <Button
        sx={small}
        onClick={(event) => setAnchor(event.currentTarget)}
        aria-label={`Copy ${WEEKDAYS[day] ?? ""} to…`}>
        copy
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {copies.map((entry) => (
          <MenuItem key={entry.name} onClick={() => copy(entry.days)}>
            to {entry.name}
          </MenuItem>
        ))}
      </Menu>
    </span>
  );
}

/** The week as bars of open hours: drag to paint, arrow keys to nudge by a quarter of an hour. */
export function PaintedWeek({ week, disabled, change }: Props) {
  return (
    <section aria-label="Weekly plan" className={styles.week}>
      <div className={styles.axis}>
        {[0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24].map((hour) => (
          <span key={hour} style={{ left: share(hour * 60) }}>
            {at(hour * 60)}
          </span>
        ))}
      </div>
      {WEEKDAYS.map((name, day) => (
        <div key={name} className={styles.row}>
          <b>{name.slice(0, 3)}</b>
          {disabled ? <span /> : <DayTools day={day} week={week} change={change} />}
          <DayRow
            day={day}
            spans={week[day] ?? []}
            late={(week[(day + 6) % 7] ?? []).filter((span) => span.end > DAY)}
            disabled={disabled}
            change={(spans) => change(week.map((old, i) => (i === day ? spans : old)))}
          />
        </div>
      ))}
    </section>
  );
}
