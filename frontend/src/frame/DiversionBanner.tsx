import { Link } from "react-router-dom";
import { moment } from "./format";
import styles from "./frame.module.css";
import { useSession } from "./session";
import { Glyph } from "./states";
import { useTopic } from "./useLive";

interface Standing {
  reason: string;
  numbers: string[];
  to: string;
  since_ms: number;
  until_ms: number | null;
}

const SHOWN = 2;

/** Says, under the strip, which numbers are sent elsewhere now; nothing while none is. */
export function DiversionBanner() {
  const { view } = useTopic("strip");
  const { session } = useSession();
  const standing = Object.entries((view?.diversions ?? {}) as Record<string, Standing>);
  if (standing.length === 0) return <div />;
  const names = (d: Standing) => (d.numbers.length > 3 ? `${d.numbers.length} numbers` : d.numbers.join(", "));
  return (
    <div className={styles.diverted} role="status" aria-label="Diversions in force">
      <Glyph name="fall" colour="var(--ochre)" />
      {standing.slice(0, SHOWN).map(([id, d]) => (
        <span key={id} className="nowrap">
          <b>{names(d)}</b> diverted to <b>{d.to}</b>: {d.reason}, {d.until_ms === null ? "until lifted" : `until ${moment(d.until_ms, session.time_zone)}`}{" "}
          <Link to={`/arrive/diversions/${id}`}>Open</Link>
        </span>
      ))}
      {standing.length > SHOWN && <Link to="/arrive/diversions">and {standing.length - SHOWN} more</Link>}
    </div>
  );
}
