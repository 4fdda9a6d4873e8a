import { type ReactNode, useState } from "react";
import styles from "./shared.module.css";

interface Props {
  title: string;
  /** What is in it, in a line; shown while it is folded. */
  holds: ReactNode;
  /** Whether it stands open before anybody touched it. */
  open?: boolean;
  /** Something in it needs a look: it cannot be folded away. */
  needed?: boolean;
  children: ReactNode;
}

/** A part of a form that is needed seldom: folded, a line says what it holds. */
export function Fold({ title, holds, open = false, needed = false, children }: Props) {
  const [chosen, setChosen] = useState(open);
  const shown = chosen || needed;
  return (
    <section className={styles.part} aria-label={title}>
      <h2>
        <button
          type="button"
          className={styles.foldHead}
          aria-expanded={shown}
          disabled={needed}
          onClick={() => setChosen(!shown)}>
          <i aria-hidden="true" data-open={shown || undefined} />
          {title}
        </button>
      </h2>
      {shown ? children : <div className={styles.holds}>{holds}</div>}
    </section>
  );
}
