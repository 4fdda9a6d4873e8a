import { Link } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import styles from "./contacts.module.css";

const kinds: Record<string, string> = {
  callback: "callback booked",
  origin: "the call that booked it",
  consult: "a colleague was asked",
  about: "asked about this contact",
};

/** What a contact gathered, what belongs to it, and where it is counted. */
export function Around({ course, caller }: { course: Schemas["Course"]; caller: string }) {
  const { session } = useSession();
  const codes = course.legs.filter((leg) => leg.code_name);
  return (
    <aside className={styles.around} tabIndex={0} aria-label="About this contact">
      {(course.gathered.length > 0 || codes.length > 0) && (
        <>
          <h2>What was gathered</h2>
          <dl>
            {course.gathered.map((one) => [
              <dt key={`${one.name} name`}>{one.name}</dt>,
              <dd key={one.name}>{one.value}</dd>,
            ])}
            {codes.map((leg) => [
              <dt key={`${leg.from_ms} name`}>code</dt>,
              <dd key={leg.from_ms}>
                {leg.code_name} <span className="dim">by {leg.agent_name}</span>
              </dd>,
            ])}
          </dl>
        </>
      )}
      <h2>Belongs to it</h2>
      <ul>
        {course.linked.map((one) => (
          <li key={`${one.kind} ${one.contact}`}>
            <span>
              {kinds[one.kind] ?? one.kind} <span className="dim">{moment(one.at_ms, session.time_zone)}</span>
            </span>
            <Link to={`/learn/contacts/${one.contact}`}>open</Link>
          </li>
        ))}
        <li>
          <span>
            same caller: {course.same_caller === 1 ? "no other contact" : `${course.same_caller} contacts`} in 28 days
          </span>
          {course.same_caller > 1 && <Link to={`/learn/contacts?search=${encodeURIComponent(caller)}`}>list</Link>}
        </li>
      </ul>
      <h2>Counted in</h2>
      {course.counted.length ? (
        <ul>
          {course.counted.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      ) : (
        <p className="dim flush">Its number and its flow only: it came into no queue.</p>
      )}
    </aside>
  );
}
