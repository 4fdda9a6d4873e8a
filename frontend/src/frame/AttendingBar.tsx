import { Button } from "@mui/material";
import { Link } from "react-router-dom";
import { clock } from "./format";
import styles from "./frame.module.css";
import { Glyph } from "./states";
import { useActing, useAttending } from "./useActing";
import { useNow } from "./useLive";

const doing = {
  listens: "You listen to",
  coaches: "You coach",
  joins: "You speak with",
  has: "You have taken over",
} as const;

/** On every page: the contact that this supervisor hears, or has, and the way out of it. */
export function AttendingBar() {
  const attending = useAttending();
  const { onContact, busy } = useActing();
  const now = useNow();
  if (!attending) return <div />;
  const { id, contact } = attending;
  const how = contact.how as keyof typeof doing;
  return (
    <div className={styles.attending} role="status" aria-label="Your contact">
      <Glyph name="ridge" colour="currentColor" />
      <span>
        {doing[how]} <b>{how === "has" ? contact.caller : contact.agent_name}</b>
        {how === "joins" ? ` and ${contact.caller}` : how === "has" ? "" : ` with ${contact.caller}`}
        {contact.queue && `, ${contact.queue}`}
      </span>
      <span className="num">{clock(now - contact.since_ms)}</span>
      <Link to={how === "has" ? `/learn/floor?contact=${id}` : `/learn/floor?person=${contact.agent}`}>Open</Link>
      {how !== "has" && (
        <Button size="small" color="inherit" disabled={busy} onClick={() => onContact({ contact: id, act: "leave" })}>
          Leave
        </Button>
      )}
    </div>
  );
}
