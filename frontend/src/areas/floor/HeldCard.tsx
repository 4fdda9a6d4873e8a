import { Button } from "@mui/material";
import { useEffect, useState } from "react";
import { clock } from "../../frame/format";
import { type Held, useActing, useAttending } from "../../frame/useActing";
import { useNow, useTopic } from "../../frame/useLive";
import { Transcript } from "../flows/phone/Transcript";
import { useSound } from "../flows/phone/useTelephone";
import styles from "./floor.module.css";
import { Parties } from "./Parties";

const buttons = [
  ["listen", "Listen", "L"],
  ["coach", "Coach", "C"],
  ["join", "Join", "J"],
  ["take_over", "Take over", "O"],
] as const;
const as: Record<string, string> = { listens: "listen", coaches: "coach", joins: "join" };

/** What the contact's people hear and say, as it goes: only for whoever is there. */
export function Hearing({ contact }: { contact: string }) {
  const { view } = useTopic("call", contact);
  useSound(view?.call);
  if (!view) return null;
  return (
    <div className={styles.hearing}>
      <Transcript log={Object.values(view.log)} began={view.call.arrived_ms} />
    </div>
  );
}

/** Letters do what their buttons say, unless something is typed. */
export function useActKeys(act: (key: string) => void) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        target.closest("input,textarea,[role=dialog],[role=menu],[role=listbox]")
      )
        return;
      act(event.key.toLowerCase());
    };
    window.addEventListener("keydown", press);
    return () => {
      window.removeEventListener("keydown", press);
    };
  }, [act]);
}

function said(value: unknown): string {
  return typeof value === "string" || typeof value === "number"
    ? String(value)
    : value === true
      ? "yes"
      : value === false
        ? "no"
        : "";
}

export function Facts({ contact }: { contact: Held }) {
  const now = useNow();
  const values = Object.entries(contact.values).map(([name, value]) => `${name} = ${said(value)}`);
  return (
    <>
      <div className={styles.heldHead}>
        <b>
          {contact.queue ? `${contact.queue} · ` : ""}
          {contact.caller}
        </b>
        <span className="dim">
          waited {clock(contact.waited_ms)}
          {contact.up_front_ms > 0 && `, ${clock(contact.up_front_ms)} up front`}
        </span>
      </div>
      <div>
        <Parties parties={contact.parties} />
        {contact.answered_ms !== null && <span className="dim"> Answered {clock(now - contact.answered_ms)} ago.</span>}
      </div>
      {(contact.label || values.length > 0) && (
        <div className="dim">{[contact.label && `“${contact.label}”`, ...values].filter(Boolean).join(" · ")}</div>
      )}
    </>
  );
}

/** A contact that an agent has: who is there, and what a supervisor may do with it, said before it is done. Of several the first has the keys. */
export function HeldCard({
  id,
  contact,
  mayAct,
  first,
}: {
  id: string;
  contact: Held;
  mayAct: boolean;
  first: boolean;
}) {
  const attending = useAttending();
  const { onContact } = useActing();
  const [looked, setLooked] = useState("");
  const mine = attending?.id === id ? attending.contact : null;
  const may = mine?.may ?? contact.may;
  const act = (name: string) => {
    if (mayAct && name in may) onContact({ contact: id, act: name });
  };
  useActKeys((key) => {
    const found = buttons.find(([, , letter]) => letter.toLowerCase() === key);
    if (first && found) act(found[0]);
  });
  return (
    <section className={styles.held} aria-label={`With ${contact.caller}`}>
      <div className={styles.heldFacts}>
        <Facts contact={contact} />
      </div>
      {mayAct && (
        <>
          <div className={styles.acts}>
            {buttons.map(([name, word, letter]) => (
              <Button
                key={name}
                size="small"
                variant={mine && as[mine.how] === name ? "contained" : "outlined"}
                aria-pressed={Boolean(mine && as[mine.how] === name)}
                disabled={!(name in may) && as[mine?.how ?? ""] !== name}
                aria-describedby="what-it-does"
                onMouseEnter={() => setLooked(name)}
                onFocus={() => setLooked(name)}
                onClick={() => act(name)}>
                {word}
                {first && (
                  <>
                    {" "}
                    <kbd>{letter}</kbd>
                  </>
                )}
              </Button>
            ))}
          </div>
          <div id="what-it-does" className={styles.does}>
            {may[looked || (mine ? "" : "listen")] ?? (mine ? "" : "Nothing can be done with it at this moment.")}
          </div>
        </>
      )}
      {mine && <Hearing contact={id} />}
    </section>
  );
}
