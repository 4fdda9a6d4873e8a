import { Button, IconButton } from "@mui/material";
import { useState } from "react";
import { useActing, useAttending } from "../../frame/useActing";
import { Empty } from "../../frame/states";
import { TargetPicker } from "../desk/TargetPicker";
import styles from "./floor.module.css";
import { Facts, Hearing } from "./HeldCard";

/** The caller whom this supervisor has taken over: to speak with, send on, or let go. */
export function TakenSheet({ id, close }: { id: string; close: () => void }) {
  const attending = useAttending();
  const { onContact, busy } = useActing();
  const [sending, setSending] = useState(false);
  const contact = attending?.id === id ? attending.contact : null;
  return (
    <aside className={styles.sheet} aria-label="Your caller">
      <div className={styles.sheetHead}>
        <h2>Your caller</h2>
        <IconButton size="small" aria-label="Close" onClick={close}>
          ✕
        </IconButton>
      </div>
      {!contact ? (
        <Empty title="This caller is with you no more">They have gone on, or hung up.</Empty>
      ) : (
        <div className={styles.sheetBody}>
          <div className={styles.heldFacts}>
            <Facts contact={contact} />
          </div>
          <div className={styles.acts}>
            <Button variant="contained" disabled={busy} onClick={() => setSending(!sending)}>
              Send on…
            </Button>
            <Button variant="outlined" disabled={busy} onClick={() => onContact({ contact: id, act: "end" })}>
              End
            </Button>
          </div>
          <div className={styles.does}>
            If your browser is closed for 15 seconds, the caller goes back into the queue.
          </div>
          {sending && (
            <TargetPicker
              title="Send on to"
              close={() => setSending(false)}
              go={(to) => {
                onContact({ contact: id, act: "send_on", to });
                setSending(false);
              }}
            />
          )}
          <Hearing contact={id} />
        </div>
      )}
    </aside>
  );
}
