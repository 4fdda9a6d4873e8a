import { Button, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, readProfile, words } from "../../api/client";
import { keys } from "../../api/keys";
import { counted } from "../../frame/format";
import { Sized } from "../shared/Sized";
import { DayThatWas } from "./DayThatWas";
import { byHours, byQuarters, days, onWorkingDays, QUARTERS, withDay, withHour } from "./people";
import styles from "./standins.module.css";

/** Until the room is known. */
const USUAL_WIDTH = 768;
const HEIGHT = 132;
const BASE = 112;
/** Callers an hour; the server says so too. */
const MOST = 20_000;

/** The profile as a line, today's arrivals as bars under it. */
function Chart({
  width,
  day,
  load,
  arrived,
}: {
  width: number;
  day: number[];
  load: number;
  arrived: number[] | null;
}) {
  const expected = day.map((rate) => (rate * load) / 4);
  const top = Math.max(4, ...expected, ...(arrived ?? []));
  const step = width / QUARTERS;
  const y = (count: number) => BASE - (count / top) * (BASE - 12);
  const line = expected.map((count, at) => `${at * step},${y(count)} ${(at + 1) * step},${y(count)}`).join(" ");
  return (
    <svg
      viewBox={`0 0 ${width} ${HEIGHT}`}
      width="100%"
      role="img"
      aria-label="Callers in each quarter-hour: the profile as a line, today's arrivals as bars">
      {arrived?.map(
        (count, at) =>
          count > 0 && (
            <rect
              key={at}
              x={at * step + 0.8}
              width={step - 1.6}
              y={y(count)}
              height={BASE - y(count)}
              fill="var(--lichen)">
              <title>{`${count} came from ${String(Math.floor(at / 4)).padStart(2, "0")}:${String((at % 4) * 15).padStart(2, "0")}`}</title>
            </rect>
          ),
      )}
      <polyline points={line} fill="none" stroke="var(--pine)" strokeWidth="1.6" />
      <path d={`M0 ${BASE} H${width}`} stroke="var(--edge)" />
      {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((hour) => (
        <text
          key={hour}
          x={hour * 4 * step}
          y={HEIGHT - 5}
          textAnchor={hour === 24 ? "end" : "start"}
          fontSize="11.5"
          fill="var(--slate-ink)">
          {String(hour).padStart(2, "0")}:00
        </text>
      ))}
      <text x={width} y="10" textAnchor="end" fontSize="11.5" fill="var(--slate-ink)">
        {Math.round(top)} in a quarter-hour
      </text>
    </svg>
  );
}

/** Callers an hour, hour by hour; what is typed stays until it is a number. */
function Hour({
  hour,
  rate,
  disabled,
  change,
}: {
  hour: number;
  rate: number;
  disabled: boolean;
  change: (rate: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed !== null && !(typed.trim() !== "" && Number(typed) >= 0 && Number(typed) <= MOST);
  return (
    <label>
      {String(hour).padStart(2, "0")}:00
      <input
        value={typed ?? String(Math.round(rate * 100) / 100)}
        disabled={disabled}
        inputMode="decimal"
        aria-invalid={wrong}
        title={wrong ? "From 0 to 20,000 callers an hour" : undefined}
        onChange={(event) => {
          const text = event.target.value;
          setTyped(text);
          if (text.trim() !== "" && Number(text) >= 0 && Number(text) <= MOST) change(Number(text));
        }}
        onBlur={() => setTyped(null)}
      />
    </label>
  );
}

interface Props {
  profile: number[][];
  /** When callers come instead, day after day (ms after midnight); none: by chance over the profile. */
  moments: number[];
  load: number;
  disabled: boolean;
  change: (profile: number[][]) => void;
  comeAt: (moments: number[]) => void;
}

const sumOf = (counts: number[]) => counts.reduce((sum, count) => sum + count, 0);

/** Callers who come at the moments of a day that was. */
function OfADay({ moments, load, disabled, comeAt }: Pick<Props, "moments" | "load" | "disabled" | "comeAt">) {
  const today = useToday();
  const arrived = today.data?.quarters ?? null;
  return (
    <>
      <div className={styles.tools}>
        <span>
          {counted(moments.length)} {moments.length === 1 ? "moment" : "moments"} of a recorded day, day after day
        </span>
        <span className="dim">
          {counted(Math.round(moments.length * load))} callers are expected{load === 1 ? "" : ` at load ${load}`}
          {arrived && (
            <>
              ; <b>{counted(sumOf(arrived))}</b> came today so far
            </>
          )}
        </span>
      </div>
      <Sized usual={USUAL_WIDTH}>
        {(width) => (
          <Chart width={width} day={byQuarters(moments).map((count) => count * 4)} load={load} arrived={arrived} />
        )}
      </Sized>
      {!disabled && (
        <div className={styles.tools}>
          <Button variant="outlined" onClick={() => comeAt([])}>
            By chance, over the profile
          </Button>
        </div>
      )}
    </>
  );
}

/** Today's arrivals, against what was expected. */
function useToday() {
  return useQuery({
    queryKey: keys.of("stand-ins", "today"),
    queryFn: () => data(api.GET("/api/v1/stand-ins/today")),
    refetchInterval: 15_000,
  });
}

/** When callers come: by chance over a profile, or at the moments of a day. */
export function ProfileEditor(props: Props) {
  const [asking, setAsking] = useState(false);
  return (
    <section className={styles.group} aria-label="Callers an hour">
      <h2>{props.moments.length ? "When callers come" : "Callers an hour"}</h2>
      {props.moments.length ? <OfADay {...props} /> : <OfAProfile {...props} ask={() => setAsking(true)} />}
      {asking && <DayThatWas close={() => setAsking(false)} take={props.comeAt} />}
    </section>
  );
}

/** A day of the week at a time, by hand or by a table. */
function OfAProfile({ profile, load, disabled, change, ask }: Props & { ask: () => void }) {
  const today = useToday();
  const [chosen, setChosen] = useState<number | null>(null);
  const weekday = chosen ?? today.data?.weekday ?? 0;
  const file = useMutation({ mutationFn: readProfile, onSuccess: change });
  const day = profile[weekday] ?? [];
  const whole = sumOf(day) / 4;
  const isToday = weekday === today.data?.weekday;
  const came = isToday && today.data ? sumOf(today.data.quarters) : undefined;
  return (
    <>
      <div className={styles.tools}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={weekday}
          aria-label="Day of the week"
          onChange={(_, to: number | null) => {
            if (to !== null) setChosen(to);
          }}>
          {days.map((name, at) => (
            <ToggleButton key={name} value={at}>
              {name}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <span className="dim">
          {counted(Math.round(whole * load))} callers are expected{load === 1 ? "" : ` at load ${load}`}
          {came !== undefined && (
            <>
              ; <b>{counted(came)}</b> came today so far
            </>
          )}
        </span>
      </div>
      <Sized usual={USUAL_WIDTH}>
        {(width) => (
          <Chart width={width} day={day} load={load} arrived={isToday ? (today.data?.quarters ?? null) : null} />
        )}
      </Sized>
      <div className={styles.hours}>
        {byHours(day).map((rate, hour) => (
          <Hour
            key={`${weekday} ${hour}`}
            hour={hour}
            rate={rate}
            disabled={disabled}
            change={(to) => change(withDay(profile, weekday, withHour(day, hour, to)))}
          />
        ))}
      </div>
      <div className={styles.tools}>
        {!disabled && weekday < 5 && (
          <Button variant="outlined" onClick={() => change(onWorkingDays(profile, weekday))}>
            As on every working day
          </Button>
        )}
        <Button component="a" href="/api/v1/stand-ins/profile" download>
          Profile as a table (CSV)
        </Button>
        {!disabled && (
          <Button component="label" disabled={file.isPending}>
            Read a table…
            <input
              type="file"
              hidden
              accept=".csv,text/csv"
              aria-label="Choose a profile as CSV"
              onChange={(event) => {
                const [picked] = event.target.files ?? [];
                event.target.value = "";
                if (picked) file.mutate(picked);
              }}
            />
          </Button>
        )}
        {!disabled && <Button onClick={ask}>As on a day that was…</Button>}
        {file.isError && (
          <span role="alert" className="wrong">
            {words(file.error)}
          </span>
        )}
        {file.isSuccess && (
          <span role="status" className="dim">
            The table is read; it counts once they begin anew.
          </span>
        )}
      </div>
    </>
  );
}
