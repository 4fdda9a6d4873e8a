import { useQuery } from "@tanstack/react-query";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, percent, timeOfDay } from "../../frame/format";
import { useSession } from "../../frame/session";
import styles from "./desk.module.css";

const FRESH_MS = 15_000;

/** The agent's own day in figures, and their last contacts: as reports count them. */
export function MyDay() {
  const { session } = useSession();
  const day = useQuery({
    queryKey: keys.list("own-day", {}),
    queryFn: () => data(api.GET("/api/v1/desk/day")),
    refetchInterval: FRESH_MS,
  });
  const row = day.data?.row;
  const each = (ms: number | null) => (ms === null ? "–" : clock(ms));
  const figures: [string, string][] = row
    ? [
        ["signed in", clock(row.signed_in_ms)],
        ["handled", String(row.legs)],
        ["talk, average", each(row.talk_average_ms)],
        ["wrap-up, average", each(row.wrap_average_ms)],
        ["missed rings", `${row.missed} of ${row.rang}`],
        ["coded", percent(row.coded_share, 0)],
      ]
    : [];
  return (
    <>
      <section aria-label="My day" className={styles.day}>
        <h2>My day</h2>
        <dl>
          {figures.map(([name, value]) => (
            <div key={name}>
              <dt className="dim">{name}</dt>
              <dd className="num">{value}</dd>
            </div>
          ))}
        </dl>
        {!row && <span className="dim">{day.isPending ? "Adding up…" : "It begins when you start work."}</span>}
      </section>
      {day.data && day.data.contacts.length > 0 && (
        <section aria-label="My last contacts" className={styles.day}>
          <h2>My last contacts</h2>
          <ul>
            {day.data.contacts.map((one) => (
              <li key={one.id}>
                <span className="dim num">{timeOfDay(one.arrived_ms, session.time_zone).slice(0, 5)}</span>
                <span>{one.caller || "withheld"}</span>
                <span className="num">{clock(one.talk_ms)}</span>
                <span className="dim nowrap" title={one.code_name}>
                  {one.code_name || "no code"}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
