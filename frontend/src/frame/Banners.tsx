import { Link } from "react-router-dom";
import type { Schemas } from "../api/client";
import { AlarmBanner } from "./AlarmBanner";
import { AlertBanner } from "./AlertBanner";
import { AttendingBar } from "./AttendingBar";
import { moment } from "./format";
import styles from "./frame.module.css";
import { useSession } from "./session";
import { Glyph } from "./states";
import { useNow, useTopic } from "./useLive";

const SHOWN = 2;

/** Says what does not do what it should: things that cannot be read, and versions in force that could not be published any more. */
function InvalidBanner({ invalid }: { invalid: Schemas["LiveInvalidThing"][] }) {
  return (
    <div className={styles.invalid} role="alert" aria-label="Not sound">
      <Glyph name="fall" colour="var(--plum)" />
      {invalid.slice(0, SHOWN).map((row) => (
        <span key={row.id} className="nowrap" title={row.message}>
          <b>{row.name}</b> {row.message} <Link to={`${row.page}/${row.id}`}>Open</Link>
        </span>
      ))}
      {invalid.length > SHOWN && <span>and {invalid.length - SHOWN} more</span>}
    </div>
  );
}

/** What everybody should know, under the strip: diversions, and flows that are not sound any more. */
export function Banners() {
  const { view } = useTopic("strip");
  const invalid = Object.values(view?.invalid ?? {});
  return (
    <div>
      <AttendingBar />
      <AlarmBanner />
      <AlertBanner />
      <FaultBanner />
      <DiversionBanner />
      {invalid.length > 0 && <InvalidBanner invalid={invalid} />}
    </div>
  );
}

const HOUR_MS = 3_600_000;

/** Tells administrators for an hour that our own code failed at something, and what it cost. */
function FaultBanner() {
  const { session, may } = useSession();
  const now = useNow();
  const heartbeat = useTopic("heartbeat").view?.heartbeat;
  const fault = heartbeat?.fault;
  if (!fault || !may("change", "flows") || now - fault.at_ms > HOUR_MS) return <div />;
  return (
    <div className={styles.invalid} role="alert" aria-label="A fault of Hazeridge">
      <Glyph name="dashed" colour="var(--plum)" />
      <span className="nowrap">
        Hazeridge itself failed at {fault.what}, {moment(fault.at_ms, session.time_zone)}.{" "}
        {fault.contact ? (
          <>
            One contact was ended by it, all others go on. <Link to={`/learn/contacts/${fault.contact}`}>Trace</Link>
          </>
        ) : (
          "Everything else goes on; the exchange’s log says more."
        )}
      </span>
    </div>
  );
}

/** Says, under the strip, which numbers are sent elsewhere now; nothing while none is. */
function DiversionBanner() {
  const { view } = useTopic("strip");
  const { session } = useSession();
  const standing = Object.entries(view?.diversions ?? {});
  if (standing.length === 0) return <div />;
  const names = (d: Schemas["LiveStandingDiversion"]) =>
    d.numbers.length > 3 ? `${d.numbers.length} numbers` : d.numbers.join(", ");
  return (
    <div className={styles.diverted} role="status" aria-label="Diversions in force">
      <Glyph name="fall" colour="var(--ochre)" />
      {standing.slice(0, SHOWN).map(([id, d]) => (
        <span key={id} className="nowrap">
          <b>{names(d)}</b> diverted to <b>{d.to}</b>: {d.reason},{" "}
          {d.until_ms === null ? "until lifted" : `until ${moment(d.until_ms, session.time_zone)}`}{" "}
          <Link to={`/arrive/diversions/${id}`}>Open</Link>
        </span>
      ))}
      {standing.length > SHOWN && <Link to="/arrive/diversions">and {standing.length - SHOWN} more</Link>}
    </div>
  );
}
