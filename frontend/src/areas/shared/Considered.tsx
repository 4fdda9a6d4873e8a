import type { Schemas } from "../../api/client";
import styles from "./considered.module.css";

/** How those stood, or stand, whom a contact might reach: people by what was made of them. */
export function Considered({ considered }: { considered: Schemas["Considered"][] }) {
  return (
    <dl className={styles.considered}>
      {considered.map(({ words, people, more }, i) => (
        <div key={i}>
          <dt>{words}</dt>
          <dd>
            {people.join(", ")}
            {more > 0 && (people.length > 0 ? ` and ${more} more` : more)}
          </dd>
        </div>
      ))}
    </dl>
  );
}
