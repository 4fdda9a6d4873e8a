import type { Schemas } from "../../api/client";
import { dayOf, monthOf } from "../../frame/format";
import styles from "./hours.module.css";
import { words } from "./spans";

type Day = Schemas["Day"];

const LONGEST = 14 * 60;

function DayBar({ day, today }: { day: Day; today: string }) {
  const height = Math.max(3, Math.min(1, day.open_minutes / LONGEST) * 22);
  const said = `${dayOf(day.day, true)}: ${day.name ? `${day.name}, ` : ""}${words(day.spans)}${day.clocks_change ? "; the clocks change" : ""}`;
  return (
    <span
      className={`${styles.date} ${day.day === today ? styles.today : ""} ${day.day < today ? styles.past : ""}`}
      title={said}>
      {day.kind === "closed" ? (
        <i className={styles.cross}>✕</i>
      ) : (
        <i
          className={day.kind === "special" ? styles.special : styles.planned}
          style={{ height: day.open_minutes ? height : 0 }}
        />
      )}
      <small>
        {Number(day.day.slice(8))}
        {day.clocks_change ? "↻" : ""}
      </small>
    </span>
  );
}

/** The coming months: the height of a bar tells how long it is open. */
export function Months({ days, today }: { days: Day[]; today: string }) {
  const months = new Map<string, Day[]>();
  for (const day of days) months.set(day.day.slice(0, 7), [...(months.get(day.day.slice(0, 7)) ?? []), day]);
  return (
    <section aria-label="Coming months" className={styles.months}>
      <h2>
        Coming months{" "}
        <span className="dim light">
          bar height: hours open · hatched: special hours · ✕ closed all day · ↻ clocks change
        </span>
      </h2>
      {[...months].slice(0, 4).map(([month, its]) => (
        <div key={month} className={styles.month}>
          <span>{monthOf(month)}</span>
          <div>
            {its.map((day) => (
              <DayBar key={day.day} day={day} today={today} />
            ))}
          </div>
        </div>
      ))}
    </section>
  );
}
